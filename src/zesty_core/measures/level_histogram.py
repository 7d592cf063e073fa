"""How often a sound has each level: RMS of 20 ms, in steps of a decibel."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.foundation.signal import Block

LOWEST_DBFS = -90
_WINDOW_S = 0.02


class LevelHistogram:
    """Counts levels of sound that is fed in blocks."""

    def __init__(self, sample_rate_hz: int) -> None:
        self._width = max(1, round(_WINDOW_S * sample_rate_hz))
        self._rest: Block | None = None
        self._counts = np.zeros(-LOWEST_DBFS)

    def push(self, block: Block) -> None:
        """Take the next block into account."""
        if self._rest is not None and self._rest.shape[1]:
            block = np.concatenate([self._rest, block], axis=1)
        whole = block.shape[1] // self._width * self._width
        levels = levels_db(block[:, :whole], self._width)
        counts, _ = np.histogram(
            np.clip(levels, LOWEST_DBFS, -0.001), bins=-LOWEST_DBFS, range=(LOWEST_DBFS, 0)
        )
        self._counts += counts
        self._rest = block[:, whole:]

    def shares(self) -> list[float]:
        """Share of time at each decibel from ``LOWEST_DBFS`` up."""
        total = max(1.0, float(self._counts.sum()))
        return [round(float(v), 4) for v in self._counts / total]


def levels_db(sound: Block, width: int) -> NDArray[np.float64]:
    """RMS in dBFS of each ``width`` samples, over all channels."""
    whole = sound.shape[1] // max(1, width)
    if whole == 0:
        return np.empty(0)
    cut = sound[:, : whole * width].reshape(len(sound), whole, width)
    power = np.einsum("cwn,cwn->w", cut, cut, dtype=np.float64) / (width * len(sound))
    return np.asarray(10.0 * np.log10(np.maximum(power, 1e-15)))
