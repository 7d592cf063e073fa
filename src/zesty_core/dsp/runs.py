"""Runs of true values in a row of flags."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def runs(flags: NDArray[np.bool_]) -> NDArray[np.int64]:
    """First index and the one after the last of each run of true values, shape (runs, 2)."""
    edges = np.flatnonzero(flags[1:] != flags[:-1]) + 1
    begins, ends = ([0] if flags[:1].any() else []), ([len(flags)] if flags[-1:].any() else [])
    return np.concatenate([begins, edges, ends]).astype(np.int64).reshape(-1, 2)


def merged_runs(flags: NDArray[np.bool_], gap: int) -> list[tuple[int, int]]:
    """Runs of true values; those that lie closer than ``gap`` become one."""
    merged: list[tuple[int, int]] = []
    for start, stop in runs(flags).tolist():
        if merged and start - merged[-1][1] < gap:
            merged[-1] = (merged[-1][0], stop)
        else:
            merged.append((start, stop))
    return merged
