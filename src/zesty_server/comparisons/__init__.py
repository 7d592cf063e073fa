"""Before and after, compared without knowing which is which."""
