"""Means over boxes of frames and bins, by sums that run along."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def running_sums(rows: NDArray[np.floating]) -> NDArray[np.float64]:
    """Sums of each row up to each place, from nothing on."""
    return np.pad(np.cumsum(rows, axis=1, dtype=np.float64), ((0, 0), (1, 0)))


def means_between(
    sums: NDArray[np.float64], first: NDArray[np.int64], stop: NDArray[np.int64]
) -> NDArray[np.float64]:
    """Mean of each row from each ``first`` to its ``stop``; ``sums`` are what ``running_sums`` gave."""
    return np.asarray((sums[:, stop] - sums[:, first]) / (stop - first))


def means_over_time(rows: NDArray[np.floating], half: int) -> NDArray[np.float64]:
    """Mean of each row and ``half`` on either side; the first and last rows go on beyond the edges."""
    padded = np.pad(rows, ((half + 1, half), (0, 0)), mode="edge")
    sums = np.cumsum(padded, axis=0, dtype=np.float64)
    width = 2 * half + 1
    return np.asarray((sums[width:] - sums[:-width]) / width)
