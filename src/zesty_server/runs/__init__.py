"""A chain run over a recording, and its result."""
