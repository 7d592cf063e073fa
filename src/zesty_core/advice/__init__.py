"""Findings about a recording or a chain, each with its evidence and one thing to do."""
