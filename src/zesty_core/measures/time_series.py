"""What a meter keeps of every hop of a recording until its end."""

from __future__ import annotations

import mmap
from typing import Any

import numpy as np
from numpy.typing import NDArray

#: Hops whose values lie together: eleven minutes of hundredths of a second. Many small arrays that
#: stay would be strewn among blocks that come and go, and none of their places would fit a block again.
_TOGETHER = 65_536


def _apart(rows: int, dtype: type[np.generic]) -> NDArray[Any]:
    """Room for hops that lie together, away from blocks that come and go: what stays among them
    would leave gaps that no block fits into."""
    size = rows * _TOGETHER * np.dtype(dtype).itemsize
    return np.frombuffer(mmap.mmap(-1, size, mmap.MAP_PRIVATE | mmap.MAP_ANONYMOUS), dtype).reshape(
        rows, _TOGETHER
    )


class TimeSeries:
    """A few values for every hop, shape (rows, hops)."""

    def __init__(self, rows: int, dtype: type[np.generic]) -> None:
        self._rows, self._dtype = rows, dtype
        self._parts: list[NDArray[Any]] = []
        self.hops = 0

    def append(self, part: NDArray[Any]) -> None:
        """Take the values of the next hops, rounded to what is kept."""
        while part.shape[1]:
            filled = self.hops % _TOGETHER
            if filled == 0:
                self._parts.append(_apart(self._rows, self._dtype))
            taken = min(part.shape[1], _TOGETHER - filled)
            self._parts[-1][:, filled : filled + taken] = part[:, :taken]
            self.hops += taken
            part = part[:, taken:]

    def between(self, first: int, stop: int, rows: slice = slice(None)) -> NDArray[Any]:
        """Values of some hops, shape (rows, stop - first); not to be written to."""
        pieces = []
        while first < stop:
            inside = first % _TOGETHER
            end = min(inside + stop - first, _TOGETHER)
            pieces.append(self._parts[first // _TOGETHER][rows, inside:end])
            first += end - inside
        if not pieces:
            return np.empty((self._rows, 0), self._dtype)[rows]
        return np.concatenate(pieces, axis=1) if pieces[1:] else pieces[0]

    def row(self, number: int) -> NDArray[Any]:
        """One value of every hop; not to be written to."""
        return np.asarray(self.between(0, self.hops, slice(number, number + 1))[0])
