"""A few seconds of a recording while its chain is being set."""
