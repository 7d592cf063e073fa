"""What of a sound its own past foretells, and gaps filled so that past and future foretell them.

Linear prediction by the autocorrelation method (Makhoul, Proc. IEEE 63(4), 1975). Gaps: least squares
of the prediction error with the model fitted anew in each round (Janssen, Veldhuis & Vries, IEEE Trans.
ASSP 34(2), 1986), and on top of it noise of the error's level, which plain least squares lack
(Rayner & Godsill, "The detection and correction of artifacts in degraded gramophone recordings", 1991).

SciPy is loaded where it is needed: it takes long to load, and most programs need no repair.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.runtime.kernel import kernel, summing_kernel

Samples = NDArray[np.float64]

#: A model that reaches over a period of the lowest voices fills vowels best (measured: 9 dB instead of
#: 1 dB of signal over error in gaps of 10 ms).
_GAP_MODEL_S = 0.0146
_ROUNDS = 3
#: In shorter gaps, as a share of the model, nothing is missed.
_NOISE_FROM = 0.35
_WHITER = 1e-9
_NOTHING = 1e-12
#: The median of a normal variable's size, in standard deviations.
_MEDIAN_SIZE = 0.6745


@summing_kernel
def _correlate(piece: Samples, out: Samples) -> None:
    for lag in range(len(out)):
        total = 0.0
        for k in range(len(piece) - lag):
            total += piece[k] * piece[k + lag]
        out[lag] = total


@kernel
def _levinson(correlation: Samples, out: Samples) -> None:
    """Coefficients of the prediction error filter; ``out[0]`` is 1."""
    order = len(out) - 1
    out[:] = 0.0
    out[0] = 1.0
    error = correlation[0]
    before = np.empty(order + 1)
    for k in range(1, order + 1):
        total = correlation[k]
        for j in range(1, k):
            total += out[j] * correlation[k - j]
        reflection = -total / error
        before[: k + 1] = out[: k + 1]
        for j in range(1, k):
            out[j] = before[j] + reflection * before[k - j]
        out[k] = reflection
        error *= 1.0 - reflection * reflection


@kernel
def _filter_into(out: Samples, sound: Samples, filter_: Samples) -> None:
    """``sound`` begins as much earlier as there is."""
    early = len(sound) - len(out)
    out[:] = 0.0
    for j in range(len(filter_)):
        first = max(0, j - early)
        factor = filter_[j]
        past = sound[early + first - j :]
        for at in range(len(out) - first):
            out[first + at] += factor * past[at]


@kernel
def _filter_errors(sound: Samples, hop: int, order: int, window: Samples, out: Samples) -> None:
    """Each hop by the model of the window around it."""
    length, reach = len(sound), len(window)
    piece, correlation, filter_ = np.empty(reach), np.empty(order + 1), np.empty(order + 1)
    for start in range(0, length, hop):
        first = start + hop // 2 - reach // 2
        for k in range(reach):
            at = first + k
            piece[k] = sound[at] * window[k] if 0 <= at < length else 0.0
        _correlate(piece, correlation)
        correlation[0] = correlation[0] * (1.0 + 1e-5) + 1e-10
        _levinson(correlation, filter_)
        stop = min(start + hop, length)
        _filter_into(out[start:stop], sound[max(0, start - order) : stop], filter_)


def prediction_error(sound: Samples, hop: int, order: int) -> Samples:
    """What is left of a sound when its own last samples are taken into account.

    Parameters
    ----------
    sound : array, shape (n,)
    hop : int
        Samples that share a model; it is fitted to three times as many around them.
    order : int
        Samples that it looks back.

    Returns
    -------
    error : array, shape (n,)
    """
    error = np.empty_like(sound)
    _filter_errors(sound, hop, order, np.hanning(3 * hop), error)
    return error


def gap_model_order(sample_rate_hz: int) -> int:
    """Order of the model by which a gap is filled."""
    return round(_GAP_MODEL_S * sample_rate_hz)


def filled(sound: Samples, start: int, stop: int, order: int, seed: int) -> Samples:
    """A sound with one gap filled from both sides.

    Parameters
    ----------
    sound : array, shape (n,)
        At least ``order`` samples on either side of the gap.
    start, stop : int
        The gap; what it holds is not looked at.
    order : int
        Of the model.
    seed : int
        Of the noise that goes into the gap.

    Returns
    -------
    filled : array, shape (stop - start,)
    """
    from scipy.signal import lfilter

    around = sound.copy()
    ends = sound[start - 1], sound[stop]
    around[start:stop] = np.linspace(*ends, stop - start + 2)[1:-1]
    for _ in range(_ROUNDS):
        model = _model(around, order)
        around[start:stop] = _least_error(around, model, start, stop)
    gap = around[start:stop]
    if stop - start < order * _NOISE_FROM:
        return gap
    error = np.abs(lfilter(model, 1.0, around)[order:])
    level = float(np.median(np.concatenate([error[: start - order], error[stop:]]))) / _MEDIAN_SIZE
    noise = np.random.default_rng(seed).standard_normal(stop - start + 3 * order) * level
    # Of a sound of the model's own noise, what both of its sides do not foretell.
    other = lfilter([1.0], model, noise)
    first = 2 * order
    unforetold = other[first : first + stop - start] - _least_error(
        other, model, first, first + stop - start
    )
    return np.asarray(gap + unforetold)


def _model(sound: Samples, order: int) -> Samples:
    from scipy.linalg import solve_toeplitz

    spectrum = np.fft.rfft(sound * np.hanning(len(sound)), 2 * len(sound))
    correlation = np.fft.irfft(np.square(np.abs(spectrum)))[: order + 1]
    correlation[0] = correlation[0] * (1.0 + _WHITER) + _NOTHING
    tail = solve_toeplitz(correlation[:-1], -correlation[1:])
    return np.concatenate([[1.0], tail])


def _least_error(sound: Samples, model: Samples, start: int, stop: int) -> Samples:
    """The gap's samples that leave the least prediction error in all."""
    from scipy.linalg import solve_toeplitz
    from scipy.signal import oaconvolve

    order, gap = len(model) - 1, stop - start
    one_side = np.correlate(model, model, "full")[order:]
    column = np.zeros(gap)
    column[: order + 1] = one_side[:gap]
    held = sound[start - order : stop + order].copy()
    held[order : order + gap] = 0.0
    both_sides = np.concatenate([one_side[:0:-1], one_side])
    wanted = oaconvolve(held, both_sides)[2 * order : 2 * order + gap]
    return np.asarray(solve_toeplitz(column, -wanted), np.float64)
