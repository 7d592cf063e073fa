"""Sums over fixed hops of time, independent of how the sound was cut into blocks."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.hop_cuts import cut_at_hops
from zesty_core.foundation.signal import Block
from zesty_core.runtime.kernel import kernel, summing_kernel

#: What is summed over each hop, in the order of the last axis.
SQUARES, SAMPLES, MAGNITUDES = 0, 1, 2


def samples_per_ms(sample_rate_hz: int) -> int:
    """Length of the finest hop."""
    return max(1, round(sample_rate_hz / 1000))


@summing_kernel
def _sums(x: Block) -> tuple[float, float, float]:
    """Sums over one hop. It is always whole, so that any order of adding is the same every time."""
    squares, samples, magnitudes = 0.0, 0.0, 0.0
    for n in range(x.shape[0]):
        v = np.float64(x[n])
        squares += v * v
        samples += v
        magnitudes += abs(v)
    return squares, samples, magnitudes


@kernel
def _whole_hops(samples: Block, hop: int, out: NDArray[np.float64]) -> None:
    for k in range(out.shape[0]):
        out[k, 0], out[k, 1], out[k, 2] = _sums(samples[k * hop : (k + 1) * hop])


@kernel
def added_in_order(total: float, sums: NDArray[np.float64], which: int) -> float:
    """Add one of the sums of each hop, one after the other: a faster way of adding would depend on how
    the sound was cut into blocks."""
    for hop in range(sums.shape[0]):
        total += sums[hop, which]
    return total


class HopSums:
    """Sums of squares, samples and magnitudes per channel and hop of ``hop_samples``."""

    def __init__(self, hop_samples: int, channels: int) -> None:
        self.hop_samples = hop_samples
        self._open = np.zeros((channels, 0), np.float32)

    def push(self, block: Block) -> NDArray[np.float64]:
        """Sums of the hops completed by this block, shape (channels, hops, 3)."""
        straddling, whole, self._open = cut_at_hops(self._open, block, self.hop_samples)
        first = straddling.shape[1] // self.hop_samples
        hops = first + whole.shape[1] // self.hop_samples
        out = np.empty((len(block), hops, 3))
        for part, into in ((straddling, out[:, :first]), (whole, out[:, first:])):
            for samples, sums in zip(part, into, strict=True):
                _whole_hops(samples, self.hop_samples, sums)
        return out

    @property
    def rest(self) -> NDArray[np.float64]:
        """Sums of the hop still open, shape (channels, 3)."""
        return np.array([_sums(samples) for samples in self._open])
