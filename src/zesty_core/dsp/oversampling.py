"""Values between the samples, for true-peak work.

Polyphase interpolation as in ITU-R BS.1770-5 Annex 2, with a longer and denser filter than the
Annex's 12 taps at four times: 32 taps, eight times at 44.1/48 kHz (worst under-reading of a tone at
20 kHz: 0.1 dB instead of 0.5). Phase 0 is the sample itself.
"""

from __future__ import annotations

import functools
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.extremes import extremes, largest_bend
from zesty_core.foundation.signal import Block
from zesty_core.runtime.kernel import inlined_kernel, kernel

TAPS = 32
#: Where the sample itself stands in a phase's taps: between ``x[LEFT]`` and ``x[LEFT + 1]``.
LEFT = TAPS // 2 - 1
_KAISER_BETA = 8.0
_DENSE_ENOUGH_HZ = 705_600
_MOST_PHASES = 8
#: Samples looked at together; a group too low to matter costs one maximum.
GROUP = 64
#: A stretch is looked at as a whole before its groups are.
_STRETCH = 1024


def oversampling(sample_rate_hz: int) -> int:
    """Points per sample: 8 up to 96 kHz, 4 at 192 kHz."""
    factor = 2
    while factor < _MOST_PHASES and factor * sample_rate_hz < _DENSE_ENOUGH_HZ:
        factor *= 2
    return factor


@functools.cache
def phases(factor: int) -> NDArray[np.float32]:
    """Interpolation taps of phases 1 to factor-1, shape (factor-1, TAPS), each summing to one.

    Parameters
    ----------
    factor : int
        Points per sample.

    Returns
    -------
    taps : array, shape (factor - 1, TAPS)
        A row for each point between two samples.
    """
    offset = np.arange(TAPS) - LEFT
    rows = []
    for phase in range(1, factor):
        t = offset - phase / factor
        window = np.i0(_KAISER_BETA * np.sqrt(np.maximum(0.0, 1 - (t / (TAPS / 2)) ** 2)))
        taps = np.sinc(t) * window
        rows.append(taps / taps.sum())
    return np.ascontiguousarray(rows, dtype=np.float32)


@functools.cache
def reach(factor: int) -> tuple[float, float, float]:
    """How far a point between samples can lie beyond the samples near it.

    By at most the first figure times what they span; and by at most the second times their largest
    second difference and the third times what they span, which for most sounds is far less. The
    second follows from taking the points on a straight line out of each phase: what is left of its
    taps is a filter of second differences, but for a small share of the first.
    """
    taps = phases(factor).astype(np.float64)
    gain = float(np.abs(taps).sum(axis=1).max())
    fraction = np.arange(1, factor)[:, None] / factor
    ends = np.zeros((2, TAPS))
    ends[0, LEFT] = ends[1, LEFT + 1] = 1.0
    rest = taps - (1.0 - fraction) * ends[0] - fraction * ends[1]
    lean = rest @ np.arange(TAPS)
    rest -= lean[:, None] * (ends[1] - ends[0])
    bend = np.abs(np.cumsum(np.cumsum(rest, axis=1), axis=1)).sum(axis=1).max()
    # Taps sum to one, so those above zero sum to (1 + gain) / 2 at most and those below to the rest.
    # A little on top of the third for what is rounded.
    return 0.5 * (gain - 1.0), float(bend), float(np.abs(lean).max()) + 1e-5


@kernel
def _interpolate(near: Block, taps: Block, acc: Block) -> None:
    """Points of one phase for a group. Slices, not offsets: those keep the loop vectorised."""
    size = acc.shape[0]
    acc[:] = np.float32(0.0)
    # Four taps a turn: the sums stay in registers for longer.
    for k in range(0, TAPS, 4):
        t0, t1, t2, t3 = taps[k], taps[k + 1], taps[k + 2], taps[k + 3]
        x0, x1 = near[k : k + size], near[k + 1 : k + 1 + size]
        x2, x3 = near[k + 2 : k + 2 + size], near[k + 3 : k + 3 + size]
        for n in range(size):
            acc[n] += (t0 * x0[n] + t1 * x1[n]) + (t2 * x2[n] + t3 * x3[n])


@inlined_kernel
def _may_exceed_from(
    near: Any, near_low: Any, near_high: Any, far: Any, low: Any, high: Any
) -> Any:
    """Whether a point between these samples, whose extremes are known, can lie outside ``low`` to
    ``high``; ``far`` is their :func:`reach`."""
    span = near_high - near_low
    beyond = far[0] * span
    may = near_high + beyond > high or near_low - beyond < low
    if may:
        beyond = far[1] * largest_bend(near) + far[2] * span
        may = near_high + beyond > high or near_low - beyond < low
    return may


@inlined_kernel
def _may_exceed(near: Any, far: Any, low: Any, high: Any) -> Any:
    """The same of samples whose extremes are not known yet."""
    near_low, near_high = extremes(near)
    return _may_exceed_from(near, near_low, near_high, far, low, high)


@kernel
def extremes_between(
    x: Block, taps: Block, far: tuple[float, float, float], low: float, high: float
) -> tuple[float, float, float, float]:
    """Extend ``low`` and ``high`` by all points in ``x``, of which TAPS-1 samples are context.

    Points lie from sample LEFT up to the sample before the last ``TAPS - LEFT - 1``. Stretches, and
    groups in them, whose samples cannot reach a new extreme are
    skipped; that changes no result. The last two answers are the extremes of the samples alone,
    those of the context among them.
    """
    scratch = np.empty(GROUP, np.float32)
    count = x.shape[0] - TAPS + 1
    # The samples alone first: the further out they reach, the fewer groups can matter.
    stretches = np.empty((2, -(-count // _STRETCH)), np.float32)
    lows, highs = stretches[0], stretches[1]
    for k in range(lows.shape[0]):
        start = k * _STRETCH
        lows[k], highs[k] = extremes(x[start : min(start + _STRETCH, count) + TAPS - 1])
    sample_low, sample_high = extremes(lows)[0], extremes(highs)[1]
    low = sample_low if sample_low < low else low
    high = sample_high if sample_high > high else high
    for k in range(lows.shape[0]):
        start = k * _STRETCH
        stop = min(start + _STRETCH, count)
        whole = x[start : stop + TAPS - 1]
        if not _may_exceed_from(whole, lows[k], highs[k], far, low, high):
            continue
        for first in range(start, stop, GROUP):
            size = min(GROUP, stop - first)
            near = x[first : first + size + TAPS - 1]
            if not _may_exceed(near, far, low, high):
                continue
            acc = scratch[:size]
            for phase in range(taps.shape[0]):
                _interpolate(near, taps[phase], acc)
                mid_low, mid_high = extremes(acc)
                low = mid_low if mid_low < low else low
                high = mid_high if mid_high > high else high
    return low, high, sample_low, sample_high


@kernel
def may_pass(x: Block, far: tuple[float, float, float], floor: float) -> bool:
    """Whether the magnitude of any point in ``x``, given as in :func:`extremes_between`, can lie above
    ``floor``."""
    count = x.shape[0] - TAPS + 1
    for start in range(0, count, _STRETCH):
        if _may_exceed(x[start : min(start + _STRETCH, count) + TAPS - 1], far, -floor, floor):
            return True
    return False


@kernel
def peaks_between(
    x: Block, taps: Block, far: tuple[float, float, float], floor: float, out: Block
) -> None:
    """For each sample the largest magnitude from it up to the next one, where that passes ``floor``.

    ``x`` holds TAPS-1 samples of context as in :func:`extremes_between`; ``out`` has one value per
    point, plain sample magnitude where nothing can pass ``floor``.
    """
    scratch = np.empty(GROUP, np.float32)
    count = x.shape[0] - TAPS + 1
    for first in range(0, count, GROUP):
        size = min(GROUP, count - first)
        near = x[first : first + size + TAPS - 1]
        here = out[first : first + size]
        own = near[LEFT : LEFT + size]
        for n in range(size):
            here[n] = own[n] if own[n] > 0 else -own[n]
        if not _may_exceed(near, far, -floor, floor):
            continue
        acc = scratch[:size]
        for phase in range(taps.shape[0]):
            _interpolate(near, taps[phase], acc)
            for n in range(size):
                v = acc[n] if acc[n] > 0 else -acc[n]
                here[n] = v if v > here[n] else here[n]
