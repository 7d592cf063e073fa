"""Versions of the package and of its sound."""

__version__ = "0.1.0"

#: Changes when the same input and recipe give other samples than before. Kept with every result.
ENGINE_VERSION = "21"
