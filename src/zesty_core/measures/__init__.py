"""Measures: one definition each, fed in blocks, answered at the end."""
