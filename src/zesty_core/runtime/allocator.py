"""Memory given back is kept for the next block or passage, but not from one pass to the next.

Otherwise the C library returns every freed megabyte to the system and asks for it again, page by page,
which costs a fifth of the time a passage takes. What the next pass of a run needs has other sizes, and
would be put beside the gaps that the last one left. Only where that library is glibc.
"""

from __future__ import annotations

import ctypes

_TRIM_THRESHOLD, _TOP_PAD, _MMAP_THRESHOLD, _ARENA_MAX = -1, -2, -3, -8
_KEPT_BYTES, _PAD_BYTES = 64 << 20, 16 << 20
#: Threads share this many pools; each with its own would keep what another could use.
_POOLS = 2


def keep_freed_memory() -> None:
    """For the process as a whole, from now on."""
    mallopt = getattr(ctypes.CDLL(None), "mallopt", None)
    if mallopt is None:
        return
    mallopt(_MMAP_THRESHOLD, _KEPT_BYTES)
    mallopt(_TRIM_THRESHOLD, _KEPT_BYTES)
    mallopt(_TOP_PAD, _PAD_BYTES)
    mallopt(_ARENA_MAX, _POOLS)


def give_back_gaps() -> None:
    """Return to the system whatever holds nothing at the moment."""
    trim = getattr(ctypes.CDLL(None), "malloc_trim", None)
    if trim is not None:
        trim(0)
