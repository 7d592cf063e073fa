"""Gain of a compressor, sample by sample, and figures of what it did.

Static curve and smooth branching detector after the gain computer: Giannoulis, Massberg & Reiss,
"Digital Dynamic Range Compressor Design", JAES 60(6), 2012, eq. 4 and eq. 16.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.exponential import exp_db
from zesty_core.dsp.fast_powers import Row, exp2_row, log2_row
from zesty_core.dsp.kernel import kernel
from zesty_core.signal import Block

#: The make-up gain is decided once per so many samples and glides in between.
CONTROL_SAMPLES = 16
_GUARD_FADE_DB = 6.0
_HISTOGRAM_DB = 0.1
_HISTOGRAM_BINS = 600
#: Below this reduction a step counts as idle.
_ACTIVE_DB = 0.5
#: Samples whose levels are told together; they stay in the processor's nearest cache.
_GROUP = 512
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


@kernel
def next_factor(gain_db: float, factor: float) -> tuple[float, float]:
    """Factor to go on from and its step per sample, so that ``gain_db`` is reached in one hop."""
    goal = 1.0 if gain_db == 0.0 else exp_db(gain_db)
    rise = (goal - factor) / CONTROL_SAMPLES
    # Exactly one, whatever adding up to it would give.
    if goal == 1.0 and abs(rise) < 1e-9:
        return 1.0, 0.0
    return factor, rise


def pace(time_s: float, rate: float) -> float:
    """Coefficient of a one-pole smoother with this time constant (63 %)."""
    return math.exp(-1.0 / (time_s * rate)) if time_s > 0.0 else 0.0


@kernel
def static_reductions_db(
    level_db: Row, threshold_db: float, slope: float, knee_db: float, out: Row
) -> None:
    """Reduction of the static curve, ``slope = 1 - 1/ratio``. Giannoulis et al. 2012, eq. 4.

    Written without a branch: what lies within the knee bends, what lies above it adds a straight
    line. ``out`` is another row.
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
def _gains_db(
    squares: Row,
    wanted_db: Row,
    out_db: Row,
    state: NDArray[np.float64],
    curve: NDArray[np.float64],
    paces: NDArray[np.float64],
    histogram: NDArray[np.int64],
    auto_release: bool,
) -> None:
    """Gain in dB for each sample, from its squared magnitude and the static curve's reduction."""
    makeup, guard = curve[3], curve[4]
    attack, release, slow_attack, slow_release, _, guard_up, guard_down, glide = paces
    # Locals stay in registers; a state array would be written at every sample.
    reduction, slow, guard_power = state[0], state[1], state[3]
    energy, filled, lift, lift_wanted, largest = state[4], state[5], state[6], state[7], state[8]
    for n in range(squares.shape[0]):
        wanted = np.float64(wanted_db[n])
        # Both ways are computed while the comparison is still under way.
        risen = attack * reduction + (1.0 - attack) * wanted
        fallen = release * reduction + (1.0 - release) * wanted
        reduction = risen if wanted > reduction else fallen
        applied = reduction
        if auto_release:
            pace_now = slow_attack if wanted > slow else slow_release
            slow = pace_now * slow + (1.0 - pace_now) * wanted
            applied = slow if slow > reduction else reduction
        energy += np.float64(squares[n])
        filled += 1.0
        if filled == CONTROL_SAMPLES:
            power = energy / CONTROL_SAMPLES
            pace_now = guard_up if power > guard_power else guard_down
            guard_power = pace_now * guard_power + (1.0 - pace_now) * power
            lift_wanted = makeup
            if makeup > 0.0:
                above = 10.0 * math.log10(guard_power + 1e-20) - guard
                lift_wanted = makeup * min(1.0, max(0.0, above / _GUARD_FADE_DB))
            count_reduction(histogram, applied)
            energy = 0.0
            filled = 0.0
        lift = glide * lift + (1.0 - glide) * lift_wanted
        largest = applied if applied > largest else largest
        out_db[n] = np.float32(lift - applied)
    state[0], state[1], state[3] = reduction, slow, guard_power
    state[4], state[5], state[6], state[7], state[8] = energy, filled, lift, lift_wanted, largest


@kernel
def _mean_squares(squares: Row, window: float, mean: float, out: Row) -> float:
    """Squares smoothed over the RMS window; the answer is the mean to go on from."""
    for n in range(squares.shape[0]):
        mean = window * mean + (1.0 - window) * np.float64(squares[n])
        out[n] = np.float32(mean)
    return mean


@kernel
def compress(
    block: Block,
    heard: Block,
    out: Block,
    state: NDArray[np.float64],
    curve: NDArray[np.float64],
    paces: NDArray[np.float64],
    histogram: NDArray[np.int64],
    rms: bool,
    auto_release: bool,
    mix: float,
) -> None:
    """``block`` turned down by what the detector finds in ``heard``, and mixed with itself.

    ``state``: reduction, slow reduction, mean square of the detector, guard power, energy and
    samples of the guard's open hop, make-up now, make-up wanted, largest reduction.
    ``curve``: threshold, slope, knee, make-up, guard level.
    ``paces``: coefficients of attack, release, slow attack, slow release, RMS window, guard rise,
    guard fall, make-up glide.
    """
    rows = np.empty((5, _GROUP), np.float32)
    dry = 1.0 - mix
    for first in range(0, block.shape[1], _GROUP):
        size = min(_GROUP, block.shape[1] - first)
        squares, loud, level, wanted = (
            rows[0, :size],
            rows[1, :size],
            rows[2, :size],
            rows[3, :size],
        )
        factor = rows[4, :size]
        largest_squares(heard, first, squares)
        if rms:
            state[2] = _mean_squares(squares, paces[4], state[2], loud)
        else:
            loud[:] = squares
        for n in range(size):
            loud[n] = max(loud[n], _TINY)
        log2_row(loud, level)
        for n in range(size):
            level[n] *= np.float32(_DB_PER_LOG2_POWER)
        static_reductions_db(level, curve[0], curve[1], curve[2], wanted)
        gain_db = level
        _gains_db(squares, wanted, gain_db, state, curve, paces, histogram, auto_release)
        for n in range(size):
            gain_db[n] *= np.float32(_LOG2_PER_DB)
        exp2_row(gain_db, factor)
        for channel in range(block.shape[0]):
            samples, into = block[channel, first : first + size], out[channel, first : first + size]
            for n in range(size):
                into[n] = np.float32(samples[n] * (dry + mix * np.float64(factor[n])))


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
    """Median reduction while at work, and the share of time at work, from a 0.1 dB histogram."""
    first = round(_ACTIVE_DB / _HISTOGRAM_DB)
    active = histogram[first:]
    total, at_work = int(histogram.sum()), int(active.sum())
    if not at_work:
        return {"typical_reduction_db": 0.0, "active_share": 0.0}
    median = int(np.searchsorted(np.cumsum(active), at_work / 2))
    return {
        "typical_reduction_db": round((first + median) * _HISTOGRAM_DB, 1),
        "active_share": at_work / total,
    }
