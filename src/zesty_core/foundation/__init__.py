"""What every other room stands on: errors, units, signals, settings, documents, the room tone."""
