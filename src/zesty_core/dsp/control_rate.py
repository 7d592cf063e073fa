"""Gains that are decided once per short hop and run straight from one decision to the next."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.hop_cuts import cut_at_hops
from zesty_core.foundation.signal import Block
from zesty_core.runtime.kernel import kernel

#: Samples between two decisions.
CONTROL_SAMPLES = 16
_TOGETHER = 64


@kernel
def _larger_squares(
    left: Block, right: Block, centres: NDArray[np.float64], out: NDArray[np.float64]
) -> None:
    left_centre, right_centre = centres[0], centres[-1]
    for n in range(left.shape[0]):
        x, y = np.float64(left[n]) - left_centre, np.float64(right[n]) - right_centre
        x, y = x * x, y * y
        out[n] = x if x > y else y


@kernel
def _hop_sums(values: NDArray[np.float64], out: NDArray[np.float64]) -> None:
    """Sums of CONTROL_SAMPLES values, written so that hardly any addition waits for another."""
    for hop in range(out.shape[0]):
        v = values[hop * CONTROL_SAMPLES : (hop + 1) * CONTROL_SAMPLES]
        first = ((v[0] + v[1]) + (v[2] + v[3])) + ((v[4] + v[5]) + (v[6] + v[7]))
        second = ((v[8] + v[9]) + (v[10] + v[11])) + ((v[12] + v[13]) + (v[14] + v[15]))
        out[hop] = first + second


@kernel
def _energies(
    left: Block, right: Block, centres: NDArray[np.float64], out: NDArray[np.float64]
) -> None:
    squares = np.empty(CONTROL_SAMPLES * _TOGETHER)
    for some in range(0, out.shape[0], _TOGETHER):
        hops = min(_TOGETHER, out.shape[0] - some)
        start, stop = some * CONTROL_SAMPLES, (some + hops) * CONTROL_SAMPLES
        _larger_squares(left[start:stop], right[start:stop], centres, squares)
        _hop_sums(squares, out[some : some + hops])


class HopEnergy:
    """Sums of squares of the louder of two channels at most, over hops of CONTROL_SAMPLES.

    They count from the ``centres``, a value for each channel: an offset is not heard.
    """

    def __init__(self, channels: int, centres: Sequence[float] = ()) -> None:
        self._centres = np.array(centres or [0.0] * channels)
        self._open = np.zeros((channels, 0), np.float32)

    def push(self, block: Block) -> NDArray[np.float64]:
        """Sums of the hops completed by this block."""
        straddling, whole, self._open = cut_at_hops(self._open, block, CONTROL_SAMPLES)
        first = straddling.shape[1] // CONTROL_SAMPLES
        out = np.empty(first + whole.shape[1] // CONTROL_SAMPLES)
        _energies(straddling[0], straddling[-1], self._centres, out[:first])
        _energies(whole[0], whole[-1], self._centres, out[first:])
        return out


@kernel
def _glide(
    goals: NDArray[np.float32], ends: NDArray[np.float32], position: int, out: NDArray[np.float32]
) -> int:
    """The answer is the position in its hop of the sample after the last."""
    start, goal = ends[0], ends[1]
    n = used = 0
    while n < out.shape[0]:
        run = min(CONTROL_SAMPLES - position, out.shape[0] - n)
        rise = (goal - start) / np.float32(CONTROL_SAMPLES)
        row = out[n : n + run]
        for k in range(run):
            row[k] = start + rise * np.float32(position + k + 1)
        n += run
        position += run
        if position == CONTROL_SAMPLES:
            start, goal, position = goal, goals[used], 0
            used += 1
    ends[0], ends[1] = start, goal
    return position


class GlidingFactor:
    """Factor of each sample from the goals decided at the ends of hops.

    A goal is reached one hop after it was decided. Between two goals of exactly one the factor is
    exactly one.
    """

    def __init__(self, first: float) -> None:
        self._ends = np.full(2, first, np.float32)
        self._position = 0

    def push(self, goals: NDArray[np.float32], samples: int) -> NDArray[np.float32]:
        """Factors of the next samples, by the goals of all hops that end within them."""
        out = np.empty(samples, np.float32)
        self._position = _glide(goals, self._ends, self._position, out)
        return out
