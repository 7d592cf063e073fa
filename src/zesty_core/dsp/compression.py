"""Gain of a compressor, sample by sample, and figures of what it did.

Static curve and smooth branching detector after the gain computer: Giannoulis, Massberg & Reiss,
"Digital Dynamic Range Compressor Design", JAES 60(6), 2012, eq. 4 and eq. 16.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.compressor_state import (
    HOP_SAMPLES,
    MAX_REDUCTION,
    MEAN_SQUARE,
    REDUCTION,
    SLOW_REDUCTION,
    Curve,
    Smoothing,
)
from zesty_core.dsp.control_rate import CONTROL_SAMPLES
from zesty_core.dsp.extremes import extremes
from zesty_core.dsp.fast_powers import Row, exp2_row, log2_row
from zesty_core.dsp.fused import fused
from zesty_core.dsp.makeup import fixed_gains_db, guarded_gains_db
from zesty_core.foundation.signal import Block
from zesty_core.runtime.kernel import kernel

_HISTOGRAM_DB = 0.1
_HISTOGRAM_BINS = 600
#: Below this reduction a step counts as idle.
_ACTIVE_DB = 0.5
#: Samples whose levels are handled together; they stay in the processor's nearest cache.
_GROUP = 2048
_DB_PER_LOG2_POWER = 10.0 * math.log10(2.0)
_LOG2_PER_DB = math.log2(10.0) / 20.0
_TINY = np.float32(1e-30)


def empty_histogram() -> NDArray[np.int64]:
    """Counts of reductions in steps of 0.1 dB, for :func:`reduction_figures`."""
    return np.zeros(_HISTOGRAM_BINS, np.int64)


@kernel
def count_reduction(histogram: NDArray[np.int64], reduction_db: float) -> None:
    """Count one reduction of zero or more dB."""
    histogram[min(int(reduction_db / _HISTOGRAM_DB), histogram.shape[0] - 1)] += 1


def smoothing_coefficient(time_s: float, rate: float) -> float:
    """Coefficient of a one-pole smoother with this time constant (63 %).

    Parameters
    ----------
    time_s : float
        Time constant; zero follows at once.
    rate : float
        Steps per second.

    Returns
    -------
    coefficient : float
        What is kept of the state at each step, 0 to 1.
    """
    return math.exp(-1.0 / (time_s * rate)) if time_s > 0.0 else 0.0


@kernel
def static_reductions_db(
    level_db: Row, threshold_db: float, slope: float, knee_db: float, out: Row
) -> None:
    """Reduction of the static curve, ``slope = 1 - 1/ratio``. Giannoulis et al. 2012, eq. 4.

    Written without a branch: what lies within the knee bends, what lies above it adds a straight
    line. ``out`` is another row.

    Parameters
    ----------
    level_db : array, shape (samples,)
        Level at the detector.
    threshold_db : float
        Where reduction begins.
    slope : float
        ``1 - 1/ratio``.
    knee_db : float
        Width of the bend, around the threshold.
    out : array, shape (samples,)
        Reductions in dB, zero or more.
    """
    knee = np.float32(knee_db if knee_db > 1e-6 else 1e-6)
    bend = np.float32(slope) / (np.float32(2.0) * knee)
    rise, zero = np.float32(slope), np.float32(0.0)
    start = np.float32(threshold_db) - np.float32(0.5) * knee
    for n in range(level_db.shape[0]):
        into = level_db[n] - start
        within = min(max(into, zero), knee)
        out[n] = bend * within * within + rise * max(into - knee, zero)


@kernel
def _reduce(
    wanted_db: Row,
    state: NDArray[np.float64],
    smoothing: Smoothing,
    auto_release: bool,
    out_db: Row,
) -> None:
    """Smoothed reduction of each sample. Giannoulis et al. 2012, eq. 16."""
    attack, release = smoothing.attack, smoothing.release
    slow_attack, slow_release = smoothing.slow_attack, smoothing.slow_release
    # Locals stay in registers; a state array would be written at every sample.
    reduction, slow = state[REDUCTION], state[SLOW_REDUCTION]
    for n in range(wanted_db.shape[0]):
        wanted = np.float64(wanted_db[n])
        # Both ways are computed while the comparison is still under way.
        risen = fused(attack, reduction, (1.0 - attack) * wanted)
        fallen = fused(release, reduction, (1.0 - release) * wanted)
        reduction = risen if wanted > reduction else fallen
        applied = reduction
        if auto_release:
            coefficient = slow_attack if wanted > slow else slow_release
            slow = fused(coefficient, slow, (1.0 - coefficient) * wanted)
            applied = slow if slow > reduction else reduction
        out_db[n] = np.float32(applied)
    state[REDUCTION], state[SLOW_REDUCTION] = reduction, slow


@kernel
def _count_hops(applied_db: Row, filled: int, histogram: NDArray[np.int64]) -> int:
    """Count the reduction at the end of each hop; the answer is how full the open one is then."""
    size = applied_db.shape[0]
    for n in range(CONTROL_SAMPLES - 1 - filled, size, CONTROL_SAMPLES):
        count_reduction(histogram, np.float64(applied_db[n]))
    return int((filled + size) % CONTROL_SAMPLES)


@kernel
def _mean_squares(squares: Row, window: float, mean: float) -> float:
    """Squares smoothed over the RMS window, in place; the answer is the mean to go on from."""
    for n in range(squares.shape[0]):
        mean = fused(window, mean, (1.0 - window) * np.float64(squares[n]))
        squares[n] = np.float32(mean)
    return mean


@kernel
def compress(
    block: Block,
    heard: Block,
    energies: NDArray[np.float64],
    out: Block,
    state: NDArray[np.float64],
    curve: Curve,
    smoothing: Smoothing,
    histogram: NDArray[np.int64],
    rms: bool,
    auto_release: bool,
    mix: float,
) -> None:
    """``block`` turned down by what the detector finds in ``heard``, and mixed with itself.

    ``energies``: of ``heard``, of each hop that ends within the block; of none where the make-up
    lifts nothing.
    Places of ``state`` are those of :mod:`zesty_core.dsp.compressor_state`.
    """
    rows = np.empty((3, _GROUP), np.float32)
    glides = (smoothing.makeup_glide ** np.arange(1.0, CONTROL_SAMPLES + 1.0)).astype(np.float32)
    hops = 0
    wet = np.float32(mix)
    dry = np.float32(1.0) - wet
    per_db = np.float32(_LOG2_PER_DB)
    for first in range(0, block.shape[1], _GROUP):
        size = min(_GROUP, block.shape[1] - first)
        one, other, third = rows[0, :size], rows[1, :size], rows[2, :size]
        largest_squares(heard, first, one)
        if rms:
            state[MEAN_SQUARE] = _mean_squares(one, smoothing.rms_window, state[MEAN_SQUARE])
        _levels_db(one, other, third)
        static_reductions_db(third, curve.threshold_dbfs, curve.slope, curve.knee_db, one)
        applied, gain, factor = other, one, third
        _reduce(one, state, smoothing, auto_release, applied)
        largest = np.float64(extremes(applied)[1])
        state[MAX_REDUCTION] = max(largest, state[MAX_REDUCTION])
        if curve.makeup_db > 0.0:
            hops += guarded_gains_db(
                applied, energies[hops:], gain, state, curve, smoothing, glides
            )
        else:
            fixed_gains_db(applied, curve.makeup_db, gain)
        state[HOP_SAMPLES] = _count_hops(applied, int(state[HOP_SAMPLES]), histogram)
        for n in range(size):
            other[n] = gain[n] * per_db
        exp2_row(other, factor)
        for channel in range(block.shape[0]):
            samples, into = block[channel, first : first + size], out[channel, first : first + size]
            for n in range(size):
                into[n] = samples[n] * (dry + wet * factor[n])


@kernel
def _levels_db(power: Row, scratch: Row, out: Row) -> None:
    """Decibels of each power, none below that of a tiny one."""
    per_log2 = np.float32(_DB_PER_LOG2_POWER)
    for n in range(power.shape[0]):
        scratch[n] = power[n] if power[n] > _TINY else _TINY
    log2_row(scratch, out)
    for n in range(power.shape[0]):
        out[n] *= per_log2


@kernel
def largest_squares(heard: Block, first: int, out: NDArray[Any]) -> None:
    """Squared magnitude of the louder channel from sample ``first`` on."""
    size = out.shape[0]
    samples = heard[0, first : first + size]
    for n in range(size):
        v = np.float64(samples[n])
        out[n] = v * v
    for channel in range(1, heard.shape[0]):
        others = heard[channel, first : first + size]
        for n in range(size):
            v = np.float64(others[n])
            out[n] = v * v if v * v > out[n] else out[n]


def reduction_figures(histogram: NDArray[np.int64]) -> dict[str, float]:
    """Median reduction while at work, and the share of time at work, from a 0.1 dB histogram.

    Parameters
    ----------
    histogram : array of int
        How many samples were turned down by each tenth of a dB.

    Returns
    -------
    figures : dict
        Named figures as a report holds them.
    """
    first = round(_ACTIVE_DB / _HISTOGRAM_DB)
    active = histogram[first:]
    total, context = int(histogram.sum()), int(active.sum())
    if not context:
        return {"typical_reduction_db": 0.0, "active_share": 0.0}
    median = int(np.searchsorted(np.cumsum(active), context / 2))
    return {
        "typical_reduction_db": round((first + median) * _HISTOGRAM_DB, 1),
        "active_share": context / total,
    }
