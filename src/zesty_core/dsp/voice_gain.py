"""Gain per frame and frequency that keeps the voice and turns the noise down.

Given the power of every bin and the power of the noise, per frame (rows) and bin (columns):

1. a-priori SNR by the decision-directed rule, run forward and backward and averaged, so that the
   onset of a word is treated like its end (Ephraim & Malah 1984; both directions: own trials);
2. geometric mean of it with a smooth estimate of the voice's spectrum (``dsp.voice_model``);
3. log-spectral-amplitude gain (Ephraim & Malah 1985);
4. speech presence (``dsp.presence``) decides how far the gain may fall to the floor. The floor keeps
   a natural bed of noise (Cappe 1994).
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.fast_powers import exp2_row, log2_row
from zesty_core.dsp.kernel import inlined_kernel, kernel
from zesty_core.dsp.presence import presence
from zesty_core.dsp.voice_model import LEAST_SNR_LOG2, MOST_SNR_LOG2, voice_model

Frames = NDArray[np.float32]

#: Share of the past (and future) in the a-priori SNR.
_INERTIA = np.float32(0.965)
_LEAST_SNR = np.float32(10.0 ** (-25.0 / 10.0))
#: Share of the voice's model in the geometric mean; none at the lower edge of the voice, where its
#: spectrum ends too steeply for a smooth model.
_MODEL_SHARE = 0.4
_MODEL_FROM_HZ = (100.0, 250.0)

# Numerator and denominator of the fit below.
_P1, _P2, _P3 = np.float32(-0.140778961), np.float32(0.0119687108), np.float32(-0.00033902652)
_Q1, _Q2, _Q3 = np.float32(0.53034011), np.float32(0.185370903), np.float32(0.0401161622)
_Q4, _Q5 = np.float32(0.00546041545), np.float32(0.00102069385)


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
def _lsa_gain(
    snr: Frames,
    forward: Frames,
    backward: Frames,
    model: Frames,
    share: Frames,
) -> None:
    """Log-spectral-amplitude gain from both directions' amplitudes and the voice's model (log2).

    The answer replaces ``backward``, row by row once that is behind.

    ``model`` has a row for each pair of frames; ``share`` is its weight in each bin.
    """
    frames = snr.shape[0]
    inertia, least = _INERTIA, _LEAST_SNR
    one = np.float32(1.0)
    zero = np.float32(0.0)
    near_share = np.float32(0.5) * inertia
    fresh_share = one - inertia
    tiny = np.float32(1e-12)
    prior, logs = np.empty(snr.shape[1], np.float32), np.empty(snr.shape[1], np.float32)
    for t in range(frames):
        now, made, modelled = snr[t], backward[t], model[t // 2]
        past = forward[t - 1 if t > 0 else 0]
        coming = backward[t + 1 if t + 1 < frames else t]
        for k in range(now.shape[0]):
            fresh = max(now[k] - one, zero)
            prior[k] = max(near_share * (past[k] + coming[k]) + fresh_share * fresh, least)
        log2_row(prior, logs)
        for k in range(now.shape[0]):
            shape = max(min(modelled[k], MOST_SNR_LOG2), LEAST_SNR_LOG2)
            logs[k] += share[k] * (shape - logs[k])
        exp2_row(logs, prior)
        for k in range(now.shape[0]):
            gamma = now[k]
            w = prior[k] / (one + prior[k])
            v = w * gamma
            made[k] = min(np.sqrt(w * (v + lsa_excess(v)) / (gamma + tiny)), one)


def voice_gain(
    power: Frames, noise: NDArray[np.floating], floor: Frames, hop_s: float, bin_hz: float
) -> Frames:
    """Gain of every frame and bin, between ``floor`` and 1.

    Parameters
    ----------
    power : (frames, bins) power of the noisy sound; its memory is used up.
    noise : (bins,) or (frames, bins) power of the noise; above zero.
    floor : (bins,) smallest gain.
    hop_s, bin_hz : distance of frames and of bins.
    """
    # Memory that is touched for the first time costs as much as the work on it: it serves twice.
    snr = np.divide(power, noise.astype(np.float32), out=power)
    forward, backward = np.empty_like(snr), np.empty_like(snr)
    _amplitudes(snr, False, forward)
    _amplitudes(snr, True, backward)
    freq_hz = np.arange(snr.shape[1]) * bin_hz
    share = np.interp(freq_hz, _MODEL_FROM_HZ, (0.0, _MODEL_SHARE)).astype(np.float32)
    _lsa_gain(snr, forward, backward, voice_model(snr, hop_s, bin_hz), share)
    gain = backward
    _toward_floor(gain, presence(snr, hop_s, bin_hz, forward), floor)
    return gain


@kernel
def _toward_floor(gain: Frames, present: Frames, floor: Frames) -> None:
    """``p max(gain, floor) + (1 - p) floor``, in place."""
    for t in range(gain.shape[0]):
        row, p = gain[t], present[t]
        for k in range(floor.shape[0]):
            row[k] = p[k] * (max(row[k], floor[k]) - floor[k]) + floor[k]
