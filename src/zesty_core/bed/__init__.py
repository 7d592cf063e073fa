"""A voice over a music bed that dips while the voice speaks."""
