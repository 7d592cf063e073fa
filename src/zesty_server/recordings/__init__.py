"""Recordings as they came in, with their measures."""
