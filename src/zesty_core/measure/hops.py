"""Sums over fixed hops of time, independent of how the sound was cut into blocks."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.kernel import kernel
from zesty_core.signal import Block


@kernel
def _add_squares(
    block: Block, hop: int, carry: NDArray[np.float64], filled: int, out: NDArray[np.float64]
) -> tuple[int, int]:
    """Complete hops into ``out`` (channels, hops); returns hops done and samples in the open one."""
    done = 0
    for channel in range(block.shape[0]):
        total = carry[channel]
        position = filled
        done = 0
        for n in range(block.shape[1]):
            v = np.float64(block[channel, n])
            total += v * v
            position += 1
            if position == hop:
                out[channel, done] = total
                done += 1
                total = 0.0
                position = 0
        carry[channel] = total
    return done, (filled + block.shape[1]) % hop


class HopEnergy:
    """Sum of squares per channel and hop of ``hop_samples``."""

    def __init__(self, hop_samples: int, channels: int) -> None:
        self.hop_samples = hop_samples
        self._carry = np.zeros(channels)
        self._filled = 0

    def push(self, block: Block) -> NDArray[np.float64]:
        """Energies of the hops completed by this block, shape (channels, hops)."""
        out = np.empty((block.shape[0], block.shape[1] // self.hop_samples + 1))
        done, self._filled = _add_squares(block, self.hop_samples, self._carry, self._filled, out)
        return out[:, :done]

    @property
    def rest(self) -> tuple[NDArray[np.float64], int]:
        """Energy and length in samples of the hop still open."""
        return self._carry, self._filled
