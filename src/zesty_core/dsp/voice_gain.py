"""Gain per frame and frequency that keeps the voice and turns the noise down.

Given the power of every bin and the power of the noise, per frame (rows) and bin (columns):

1. a-priori SNR by the decision-directed rule, run forward and backward and averaged, so that the
   onset of a word is treated like its end (Ephraim & Malah 1984; both directions: own trials);
2. log-spectral-amplitude gain (Ephraim & Malah 1985);
3. speech presence from the a-posteriori SNR averaged over three neighbourhoods with fixed priors
   (after Gerkmann, Breithaupt & Martin 2008), which decides how far the gain may fall to the floor.
   The floor keeps a natural bed of noise (Cappe 1994).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.kernel import inlined_kernel, kernel

Frames = NDArray[np.float32]

#: Share of the past (and future) in the a-priori SNR.
_INERTIA = np.float32(0.92)
_LEAST_SNR = np.float32(10.0 ** (-25.0 / 10.0))
#: A-posteriori SNR beyond this says nothing more about presence, but would leak into neighbours.
_MOST_SNR = np.float32(40.0)
_SURE = 12.0

# Numerator and denominator of the fit below.
_P1, _P2, _P3 = np.float32(-0.140778961), np.float32(0.0119687108), np.float32(-0.00033902652)
_Q1, _Q2, _Q3 = np.float32(0.53034011), np.float32(0.185370903), np.float32(0.0401161622)
_Q4, _Q5 = np.float32(0.00546041545), np.float32(0.00102069385)


@dataclass(frozen=True)
class Neighbourhood:
    """Extent in time and frequency, and the SNR expected there when speech is present."""

    time_s: float
    freq_hz: float
    prior_db: float


NEIGHBOURHOODS = (
    Neighbourhood(0.060, 300.0, 6.0),
    Neighbourhood(0.200, 800.0, 3.0),
    Neighbourhood(0.120, 2_500.0, 1.5),
)
#: Bins under a Hann window, and frames at 75 % overlap, that carry one independent value.
_BINS_PER_VALUE, _FRAMES_PER_VALUE = 1.8, 2.2


@inlined_kernel
def lsa_excess(v: Any) -> Any:
    """``v (exp(E1(v)) - 1)``, E1 the exponential integral; 0.5615 at 0, falling to 0.

    Rational fit, within 0.001 dB of the exact gain (checked in the tests against SciPy's E1). With
    ``w = xi / (1 + xi)`` and ``v = w gamma`` the squared amplitude over the noise becomes
    ``w (v + lsa_excess(v))``: no exponential per bin.
    """
    one = np.float32(1.0)
    p = np.float32(0.561459) + v * (_P1 + v * (_P2 + v * _P3))
    q = one + v * (_Q1 + v * (_Q2 + v * (_Q3 + v * (_Q4 + v * _Q5))))
    return p / q


@kernel
def _amplitudes(snr: Frames, backward: bool, out: Frames) -> None:
    """Squared amplitude over noise by the decision-directed rule in one direction."""
    frames = snr.shape[0]
    inertia, least = _INERTIA, _LEAST_SNR
    one = np.float32(1.0)
    zero = np.float32(0.0)
    fresh_share = one - inertia
    nothing = np.zeros(snr.shape[1], np.float32)
    for step in range(frames):
        t = frames - 1 - step if backward else step
        before = t + 1 if backward else t - 1
        # Rows as slices, and NumPy's division by zero: otherwise the loop is not vectorised.
        now, made = snr[t], out[t]
        past = out[before] if step > 0 else nothing
        for k in range(now.shape[0]):
            gamma = now[k]
            fresh = max(gamma - one, zero)
            xi = max(inertia * past[k] + fresh_share * fresh, least)
            w = xi / (one + xi)
            v = w * gamma
            made[k] = w * (v + lsa_excess(v))


@kernel
def _lsa_gain(snr: Frames, forward: Frames, backward: Frames, out: Frames) -> None:
    """Log-spectral-amplitude gain from both directions' amplitudes."""
    frames = snr.shape[0]
    inertia, least = _INERTIA, _LEAST_SNR
    one = np.float32(1.0)
    zero = np.float32(0.0)
    near_share = np.float32(0.5) * inertia
    fresh_share = one - inertia
    tiny = np.float32(1e-12)
    for t in range(frames):
        now, made = snr[t], out[t]
        past = forward[t - 1 if t > 0 else 0]
        coming = backward[t + 1 if t + 1 < frames else t]
        for k in range(now.shape[0]):
            gamma = now[k]
            fresh = max(gamma - one, zero)
            xi = max(near_share * (past[k] + coming[k]) + fresh_share * fresh, least)
            w = xi / (one + xi)
            v = w * gamma
            made[k] = min(np.sqrt(w * (v + lsa_excess(v)) / (gamma + tiny)), one)


@kernel
def _running_sums(snr: Frames, most: float, out: Frames) -> None:
    """Per frame the sum of all bins below each bin, every value held under ``most``."""
    limit = np.float32(most)
    for t in range(snr.shape[0]):
        row, sums = snr[t], out[t]
        total = np.float64(0.0)
        sums[0] = np.float32(0.0)
        for k in range(row.shape[0]):
            total += min(row[k], limit)
            sums[k + 1] = np.float32(total)


@kernel
def _add_box(sums: Frames, half: int, sign: float, box: NDArray[np.float64]) -> None:
    """Add a frame's sums over ``2 half + 1`` bins around each bin, fewer at the edges."""
    bins = box.shape[0]
    inner = bins - 2 * half - 1
    for k in range(min(half, bins)):
        box[k] += sign * sums[min(bins, k + half + 1)]
    for k in range(max(half, bins - half - 1), bins):
        box[k] += sign * (sums[bins] - sums[k - half])
    if inner > 0:
        high, low = sums[2 * half + 1 : 2 * half + 1 + inner], sums[:inner]
        middle = box[half : half + inner]
        for k in range(inner):
            middle[k] += sign * (high[k] - low[k])


@kernel
def _weigh(mean: Frames, slope: Frames, offset: Frames, product: Frames) -> None:
    """Multiply ``product`` by ``1 + exp(offset - slope mean)``, the exponent held within limits."""
    one = np.float32(1.0)
    sure = np.float32(_SURE)
    small = np.float32(1.0 / 256.0)
    for k in range(mean.shape[0]):
        z = offset[k] - slope[k] * mean[k]
        z = max(min(z, sure), -sure)
        # exp(z) as (1 + z/256)^256: plain multiplications, exact enough where it decides.
        e = one + z * small
        e *= e
        e *= e
        e *= e
        e *= e
        e *= e
        e *= e
        e *= e
        e *= e
        product[k] *= one + e


@kernel
def _add_evidence(
    sums: Frames, time_half: int, freq_half: int, slope: Frames, offset: Frames, product: Frames
) -> None:
    """Take one neighbourhood into ``product``; boxes are narrower at the edges."""
    frames, bins = product.shape
    box = np.zeros(bins)
    mean = np.empty(bins, np.float32)
    share = np.empty(bins)
    for k in range(bins):
        share[k] = 1.0 / (min(bins, k + freq_half + 1) - max(0, k - freq_half))
    count = 0
    for t in range(min(time_half, frames)):
        _add_box(sums[t], freq_half, 1.0, box)
        count += 1
    for t in range(frames):
        if t + time_half < frames:
            _add_box(sums[t + time_half], freq_half, 1.0, box)
            count += 1
        if t - time_half - 1 >= 0:
            _add_box(sums[t - time_half - 1], freq_half, -1.0, box)
            count -= 1
        scale = 1.0 / count
        for k in range(bins):
            mean[k] = np.float32(box[k] * scale * share[k])
        _weigh(mean, slope, offset, product[t])


def presence(snr: Frames, hop_s: float, bin_hz: float, product: Frames) -> Frames:
    """Probability that the voice is present, 0..1, as a product over the neighbourhoods.

    ``product`` is memory to answer in.
    """
    frames, bins = snr.shape
    sums = np.empty((frames, bins + 1), np.float32)
    _running_sums(snr, float(_MOST_SNR), sums)
    product.fill(1.0)
    for near in NEIGHBOURHOODS:
        time_half = max(1, round(near.time_s / hop_s / 2))
        freq_half = max(1, round(near.freq_hz / bin_hz / 2))
        prior = 10.0 ** (near.prior_db / 10.0)
        position = np.arange(bins)
        width = np.minimum(position + freq_half, bins - 1) - np.maximum(position - freq_half, 0) + 1
        values = np.maximum(1.0, width / _BINS_PER_VALUE) * max(
            1.0, (2 * time_half + 1) / _FRAMES_PER_VALUE
        )
        # Log of the likelihood ratio of "absent" over "present"; even odds beforehand.
        slope = (values * prior / (1.0 + prior)).astype(np.float32)
        offset = (values * math.log1p(prior)).astype(np.float32)
        _add_evidence(sums, time_half, freq_half, slope, offset, product)
    return np.reciprocal(product, out=product)


def voice_gain(
    power: Frames, noise: NDArray[np.floating], floor: Frames, hop_s: float, bin_hz: float
) -> Frames:
    """Gain of every frame and bin, between ``floor`` and 1.

    Parameters
    ----------
    power : (frames, bins) power of the noisy sound.
    noise : (bins,) or (frames, bins) power of the noise; above zero.
    floor : (bins,) smallest gain.
    hop_s, bin_hz : distance of frames and of bins.
    """
    snr = np.divide(power, noise.astype(np.float32), dtype=np.float32)
    forward, backward = np.empty_like(snr), np.empty_like(snr)
    _amplitudes(snr, False, forward)
    _amplitudes(snr, True, backward)
    gain = np.empty_like(snr)
    _lsa_gain(snr, forward, backward, gain)
    # The forward direction has done its part; its memory serves again.
    _toward_floor(gain, presence(snr, hop_s, bin_hz, forward), floor)
    return gain


@kernel
def _toward_floor(gain: Frames, present: Frames, floor: Frames) -> None:
    """``p max(gain, floor) + (1 - p) floor``, in place."""
    for t in range(gain.shape[0]):
        row, p = gain[t], present[t]
        for k in range(floor.shape[0]):
            row[k] = p[k] * (max(row[k], floor[k]) - floor[k]) + floor[k]
