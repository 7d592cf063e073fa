"""How the two sides of a stereo recording relate: one empty, both the same, or a true image."""

from __future__ import annotations

from dataclasses import astuple, dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_core.foundation.signal import Block
from zesty_core.foundation.units import level_or_none, level_without, power_to_db
from zesty_core.runtime.kernel import kernel


@dataclass(frozen=True)
class Sides:
    """Levels in dBFS (RMS) of each side and of their difference; None where silent."""

    left_dbfs: float | None
    right_dbfs: float | None
    difference_dbfs: float | None

    def shifted(self, gain_db: float) -> Sides:
        """Levels after a plain gain."""
        return Sides(*(None if v is None else v + gain_db for v in astuple(self)))

    def centred(self, left: float, right: float) -> Sides:
        """Levels after an offset was taken from each side."""
        gone = (left**2, right**2, (left - right) ** 2)
        levels = zip(astuple(self), gone, strict=True)
        return Sides(*(None if v is None else level_without(v, power) for v, power in levels))


@kernel
def _add(left: Block, right: Block, sums: NDArray[np.float64]) -> None:
    """One after the other, so that blocks of any size add up alike."""
    a, b, c = sums[0], sums[1], sums[2]
    for n in range(left.shape[0]):
        x, y = np.float64(left[n]), np.float64(right[n])
        a += x * x
        b += y * y
        c += (x - y) * (x - y)
    sums[0], sums[1], sums[2] = a, b, c


class SidesMeter:
    """Energies of left, right and difference."""

    def __init__(self) -> None:
        self._sums = np.zeros(3)
        self._samples = 0

    def push(self, block: Block) -> None:
        """Take the next stereo block into account."""
        _add(np.ascontiguousarray(block[0]), np.ascontiguousarray(block[1]), self._sums)
        self._samples += block.shape[1]

    def finish(self) -> Sides:
        """Levels of everything pushed."""
        means = self._sums / max(1, self._samples)
        return Sides(*(level_or_none(power_to_db(float(p))) for p in means))
