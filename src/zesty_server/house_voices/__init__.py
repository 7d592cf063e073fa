"""House voices: finished recordings that others are compared with."""
