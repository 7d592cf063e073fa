"""A small room: delay lines fed back through an orthogonal matrix.

Schroeder, JAES 10(3), 1962; Jot & Chaigne, AES 90th Convention, 1991: every line is damped by what
its length asks for, so that all of them lose 60 dB in the same time, high frequencies sooner.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.runtime.kernel import kernel

#: Delays of a room a few metres wide, without common factors at 48 kHz.
_DELAYS_MS = (8.65, 10.73, 12.98, 15.10, 17.94, 20.52, 23.27, 26.73)
LINES = len(_DELAYS_MS)
#: Signs of the lines in the second channel's difference from the first.
_SIDES = np.array([1.0, -1.0, 1.0, -1.0, -1.0, 1.0, -1.0, 1.0])
_DAMPING = 0.35  # share of the previous sample: the high end decays about twice as fast
_LOW_CUT_HZ = 180.0


class Room:
    """State of the room for one signal."""

    def __init__(self, decay_s: float, sample_rate_hz: int) -> None:
        rate = sample_rate_hz
        self.lengths = np.array([round(d / 1000.0 * rate) | 1 for d in _DELAYS_MS], np.int64)
        self.gains = np.float64(10.0) ** (-3.0 * self.lengths / (decay_s * rate))
        self.lines = np.zeros((LINES, int(self.lengths.max())))
        self.positions = np.zeros(LINES, np.int64)
        self.damped = np.zeros(LINES)
        self._low = np.zeros(2)
        self._low_pace = float(np.exp(-2.0 * np.pi * _LOW_CUT_HZ / rate))
        self._damping = _DAMPING ** (48_000 / rate)

    def __call__(self, mono: NDArray[np.float64]) -> tuple[NDArray[np.float64], ...]:
        """Middle and side of the room's sound."""
        middle, side = np.empty_like(mono), np.empty_like(mono)
        _ring(
            mono,
            self.lines,
            self.lengths,
            self.positions,
            self.gains,
            self.damped,
            self._damping,
            _SIDES,
            middle,
            side,
        )
        for channel, samples in enumerate((middle, side)):
            self._low[channel] = _cut_lows(samples, self._low_pace, self._low[channel])
        return middle, side


@kernel
def _ring(
    mono: NDArray[np.float64],
    lines: NDArray[np.float64],
    lengths: NDArray[np.int64],
    positions: NDArray[np.int64],
    gains: NDArray[np.float64],
    damped: NDArray[np.float64],
    damping: float,
    sides: NDArray[np.float64],
    middle: NDArray[np.float64],
    side: NDArray[np.float64],
) -> None:
    count = lines.shape[0]
    share = 2.0 / count
    for n in range(mono.shape[0]):
        total, left, right = 0.0, 0.0, 0.0
        for i in range(count):
            late = lines[i, positions[i]]
            damped[i] = (1.0 - damping) * late + damping * damped[i]
            v = damped[i] * gains[i]
            total += v
            left += v * (1.0 if i % 2 else -1.0)
            right += v * sides[i]
        for i in range(count):
            # Householder's matrix: each line gets itself minus a share of all.
            lines[i, positions[i]] = mono[n] + damped[i] * gains[i] - share * total
            positions[i] += 1
            if positions[i] == lengths[i]:
                positions[i] = 0
        middle[n] = left
        side[n] = right


@kernel
def _cut_lows(samples: NDArray[np.float64], pace: float, low: float) -> float:
    """First-order high-pass in place; returns its state."""
    for n in range(samples.shape[0]):
        low = pace * low + (1.0 - pace) * samples[n]
        samples[n] -= low
    return low
