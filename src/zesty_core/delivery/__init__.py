"""From a recording to a finished file that meets its target, with a receipt beside it."""
