"""A chain as a document, and a whole recording through it."""
