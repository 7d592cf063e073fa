"""Decoder libraries write remarks straight to the terminal; users get our one line instead."""

from __future__ import annotations

import os
import sys


def silence_libraries() -> None:
    """Keep our own standard error, and send what compiled libraries write to nowhere."""
    sys.stderr.flush()
    ours = os.fdopen(os.dup(2), "w", buffering=1, encoding=sys.stderr.encoding, errors="replace")
    nowhere = os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, 2)
    os.close(nowhere)
    sys.stderr = ours
