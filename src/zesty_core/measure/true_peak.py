"""Sample peak and true peak per channel. ITU-R BS.1770-5 Annex 2."""

from __future__ import annotations

import numpy as np

from zesty_core.dsp.oversampling import (
    LEFT,
    TAPS,
    extremes_between,
    oversampling,
    phases,
    reach,
)
from zesty_core.signal import Block


class TruePeakMeter:
    """Lowest and highest value of each channel, at the samples and between them."""

    def __init__(self, sample_rate_hz: int, channels: int) -> None:
        factor = oversampling(sample_rate_hz)
        self._taps, self._reach = phases(factor), reach(factor)
        self.sample_low = np.zeros(channels)
        self.sample_high = np.zeros(channels)
        self.low = np.zeros(channels)
        self.high = np.zeros(channels)
        # Silence before the first sample, so that the first points have their context.
        self._context = np.zeros((channels, TAPS - 1), np.float32)

    def push(self, block: Block) -> None:
        """Take the next block into account."""
        # What straddles the blocks apart, so that the block need not be copied.
        straddling = np.concatenate([self._context, block[:, : TAPS - 1]], axis=1)
        self._look(straddling)
        if block.shape[1] >= TAPS:
            self._look(block)
        last = block if block.shape[1] >= TAPS - 1 else straddling
        self._context = last[:, last.shape[1] - (TAPS - 1) :].copy()

    def finish(self) -> None:
        """Look at the points after the last sample."""
        self.push(np.zeros((len(self._context), TAPS - 1 - LEFT), np.float32))

    def _look(self, extended: Block) -> None:
        """Look at the points that begin at a sample and end with the last."""
        if extended.shape[1] < TAPS:
            return
        for channel, samples in enumerate(extended):
            self.low[channel], self.high[channel], sample_low, sample_high = extremes_between(
                samples, self._taps, self._reach, self.low[channel], self.high[channel]
            )
            self.sample_low[channel] = min(self.sample_low[channel], sample_low)
            self.sample_high[channel] = max(self.sample_high[channel], sample_high)
