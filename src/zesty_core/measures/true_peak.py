"""Sample peak and true peak per channel. ITU-R BS.1770-5 Annex 2."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.oversampling import (
    LEFT,
    TAPS,
    extremes_between,
    oversampling,
    phases,
    reach,
)
from zesty_core.foundation.signal import Block


class TruePeakMeter:
    """Lowest and highest value of each channel, at the samples and between them."""

    def __init__(self, sample_rate_hz: int, channels: int) -> None:
        factor = oversampling(sample_rate_hz)
        self._taps, self._reach = phases(factor), reach(factor)
        self.sample_low = np.full(channels, np.inf)
        self.sample_high = np.full(channels, -np.inf)
        self.low = np.zeros(channels)
        self.high = np.zeros(channels)
        # Silence before the first sample, so that the first points have their context.
        self._context = np.zeros((channels, TAPS - 1), np.float32)

    def push(self, block: Block) -> None:
        """Take the next block into account."""
        # What straddles the blocks apart, so that the block need not be copied.
        straddling = np.concatenate([self._context, block[:, : TAPS - 1]], axis=1)
        self._look(straddling)
        lowest, highest = (
            self._look(block)
            if block.shape[1] >= TAPS
            else (block.min(axis=1, initial=np.inf), block.max(axis=1, initial=-np.inf))
        )
        self.sample_low = np.minimum(self.sample_low, lowest)
        self.sample_high = np.maximum(self.sample_high, highest)
        last = block if block.shape[1] >= TAPS - 1 else straddling
        self._context = last[:, last.shape[1] - (TAPS - 1) :].copy()

    def finish(self) -> None:
        """Look at the points after the last sample."""
        silence = np.zeros((len(self._context), TAPS - 1 - LEFT), np.float32)
        self._look(np.concatenate([self._context, silence], axis=1))
        # Where there were no samples at all.
        self.sample_low = np.minimum(self.sample_low, np.maximum(self.sample_high, 0.0))
        self.sample_high = np.maximum(self.sample_high, self.sample_low)

    def _look(self, extended: Block) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Look at the points that begin at a sample and end with the last; the answer is the lowest
        and the highest of the samples."""
        lowest, highest = np.zeros(len(extended)), np.zeros(len(extended))
        if extended.shape[1] >= TAPS:
            for channel, samples in enumerate(extended):
                self.low[channel], self.high[channel], lowest[channel], highest[channel] = (
                    extremes_between(
                        samples, self._taps, self._reach, self.low[channel], self.high[channel]
                    )
                )
        return lowest, highest
