"""Gain of a compressor, sample by sample, and figures of what it did.

Static curve and smooth branching detector after the gain computer: Giannoulis, Massberg & Reiss,
"Digital Dynamic Range Compressor Design", JAES 60(6), 2012, eq. 4 and eq. 16.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.exponential import exp_db
from zesty_core.dsp.kernel import kernel
from zesty_core.signal import Block

#: The make-up gain is decided once per so many samples and glides in between.
CONTROL_SAMPLES = 16
_GUARD_FADE_DB = 6.0
_HISTOGRAM_DB = 0.1
_HISTOGRAM_BINS = 600
#: Below this reduction a step counts as idle.
_ACTIVE_DB = 0.5


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
def static_reduction_db(
    level_db: float, threshold_db: float, slope: float, knee_db: float
) -> float:
    """Reduction of the static curve, ``slope = 1 - 1/ratio``. Giannoulis et al. 2012, eq. 4."""
    over = level_db - threshold_db
    if 2.0 * over <= -knee_db:
        return 0.0
    if 2.0 * over < knee_db:
        return slope * (over + knee_db / 2.0) ** 2 / (2.0 * knee_db)
    return slope * over


@kernel
def gains_db(
    squares: NDArray[np.float64],
    out_db: NDArray[np.float64],
    state: NDArray[np.float64],
    curve: NDArray[np.float64],
    paces: NDArray[np.float64],
    histogram: NDArray[np.int64],
    rms: bool,
    auto_release: bool,
) -> None:
    """Gain in dB for each sample, from the squared magnitude the detector hears.

    ``state``: reduction, slow reduction, mean square of the detector, guard power, energy and
    samples of the guard's open hop, make-up now, make-up wanted, largest reduction.
    ``curve``: threshold, slope, knee, lowest square that is turned down, make-up, guard level.
    ``paces``: coefficients of attack, release, slow attack, slow release, RMS window, guard rise,
    guard fall, make-up glide.
    """
    threshold, slope, knee, lowest, makeup, guard = curve
    attack, release, slow_attack, slow_release, window, guard_up, guard_down, glide = paces
    # Locals stay in registers; a state array would be written at every sample.
    reduction, slow, square_mean, guard_power = state[0], state[1], state[2], state[3]
    energy, filled, lift, lift_wanted, largest = state[4], state[5], state[6], state[7], state[8]
    for n in range(squares.shape[0]):
        square = squares[n]
        loud = square
        if rms:
            square_mean = window * square_mean + (1.0 - window) * square
            loud = square_mean
        wanted = 0.0
        if loud > lowest:
            wanted = static_reduction_db(10.0 * math.log10(loud), threshold, slope, knee)
        pace_now = attack if wanted > reduction else release
        reduction = pace_now * reduction + (1.0 - pace_now) * wanted
        applied = reduction
        if auto_release:
            pace_now = slow_attack if wanted > slow else slow_release
            slow = pace_now * slow + (1.0 - pace_now) * wanted
            applied = slow if slow > reduction else reduction
        energy += square
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
        out_db[n] = lift - applied
    state[0], state[1], state[2], state[3] = reduction, slow, square_mean, guard_power
    state[4], state[5], state[6], state[7], state[8] = energy, filled, lift, lift_wanted, largest


@kernel
def largest_squares(heard: Block, out: NDArray[np.float64]) -> None:
    """Squared magnitude of the louder channel."""
    first = heard[0]
    for n in range(out.shape[0]):
        v = np.float64(first[n])
        out[n] = v * v
    for channel in range(1, heard.shape[0]):
        samples = heard[channel]
        for n in range(out.shape[0]):
            v = np.float64(samples[n])
            out[n] = v * v if v * v > out[n] else out[n]


@kernel
def apply_db(block: Block, gain_db: NDArray[np.float64], mix: float, out: Block) -> None:
    """Dry and turned-down sound mixed."""
    dry = 1.0 - mix
    for channel in range(block.shape[0]):
        samples, into = block[channel], out[channel]
        for n in range(samples.shape[0]):
            into[n] = np.float32(samples[n] * (dry + mix * exp_db(gain_db[n])))


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
