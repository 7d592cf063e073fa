"""Sums over fixed hops of time, independent of how the sound was cut into blocks."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.kernel import kernel
from zesty_core.signal import Block


@kernel
def _add_up(
    block: Block, hop: int, carry: NDArray[np.float64], filled: int, out: NDArray[np.float64]
) -> int:
    """Complete hops into ``out`` (channels, hops, 2): sums of squares and of samples."""
    done = 0
    for channel in range(block.shape[0]):
        energy, total = carry[channel, 0], carry[channel, 1]
        position = filled
        done = 0
        for n in range(block.shape[1]):
            v = np.float64(block[channel, n])
            energy += v * v
            total += v
            position += 1
            if position == hop:
                out[channel, done, 0] = energy
                out[channel, done, 1] = total
                done += 1
                energy, total = 0.0, 0.0
                position = 0
        carry[channel, 0], carry[channel, 1] = energy, total
    return done


class HopSums:
    """Sums of squares and of samples per channel and hop of ``hop_samples``."""

    def __init__(self, hop_samples: int, channels: int) -> None:
        self.hop_samples = hop_samples
        self._carry = np.zeros((channels, 2))
        self._filled = 0

    def push(self, block: Block) -> NDArray[np.float64]:
        """Sums of the hops completed by this block, shape (channels, hops, 2)."""
        length = block.shape[1]
        out = np.empty((len(block), length // self.hop_samples + 1, 2))
        done = _add_up(block, self.hop_samples, self._carry, self._filled, out)
        self._filled = (self._filled + length) % self.hop_samples
        return out[:, :done]

    @property
    def rest(self) -> NDArray[np.float64]:
        """Sums of the hop still open, shape (channels, 2)."""
        return self._carry
