"""What a meter keeps of every hop of a recording until its end."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

#: Hops whose values lie together: eleven minutes of hundredths of a second. Many small arrays that
#: stay would be strewn among blocks that come and go, and none of their places would fit a block again.
_TOGETHER = 65_536


class Course:
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
                self._parts.append(np.empty((self._rows, _TOGETHER), self._dtype))
            taken = min(part.shape[1], _TOGETHER - filled)
            self._parts[-1][:, filled : filled + taken] = part[:, :taken]
            self.hops += taken
            part = part[:, taken:]

    @property
    def values(self) -> NDArray[Any]:
        """All of them; not to be written to."""
        if not self._parts:
            return np.empty((self._rows, 0), self._dtype)
        last = self._parts[-1][:, : self.hops - (len(self._parts) - 1) * _TOGETHER]
        return np.concatenate([*self._parts[:-1], last], axis=1) if self._parts[1:] else last


def runs(flags: NDArray[np.bool_]) -> NDArray[np.int64]:
    """First index and the one after the last of each run of true values, shape (runs, 2)."""
    edges = np.flatnonzero(flags[1:] != flags[:-1]) + 1
    begins, ends = ([0] if flags[:1].any() else []), ([len(flags)] if flags[-1:].any() else [])
    return np.concatenate([begins, edges, ends]).astype(np.int64).reshape(-1, 2)
