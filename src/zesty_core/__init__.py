"""Processing of recorded voice: steps, chains, measures. No interface, no database, no printing.

Signals are arrays of shape ``(channels, samples)``; levels in names carry their unit.
"""

__version__ = "0.1.0"

#: Changes when the same input and recipe give other samples than before. Kept with every result.
ENGINE_VERSION = "18"
