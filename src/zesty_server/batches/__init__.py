"""One recipe over many recordings."""
