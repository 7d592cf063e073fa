"""A passage heard while its chain is being set."""
