"""Gain per frame and frequency that keeps the voice and turns the noise down.

Given the power of every bin and the power of the noise, per frame (rows) and bin (columns):

1. a-priori SNR by the decision-directed rule, run forward and backward and averaged, so that the
   onset of a word is treated like its end (Ephraim & Malah 1984; both directions: own trials);
2. geometric mean of it with a smooth estimate of the voice's spectrum (``dsp.voice_model``);
3. log-spectral-amplitude gain (Ephraim & Malah 1985), and a part of the gain that the forward rule
   alone gives, as the source has it: their errors differ (own trials, docs/decisions/021);
4. speech presence (``dsp.presence``) decides how far the gain may fall to the floor. The floor keeps
   a natural bed of noise (Cappe 1994).

All but the last take a restless room for louder than its mean: what is heard of it are its loud
moments (docs/decisions/028).
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.fast_powers import fast_exp2, fast_log2
from zesty_core.dsp.presence import absence
from zesty_core.dsp.voice_model import LEAST_SNR_LOG2, MOST_SNR_LOG2, voice_model
from zesty_core.runtime.kernel import inlined_kernel, kernel

Frames = NDArray[np.float32]

#: Share of the past (and future) in the a-priori SNR, from frame to frame (10.7 ms).
_INERTIA = np.float32(0.965)
_NEAR_SHARE = np.float32(0.5) * _INERTIA
_LEAST_SNR = np.float32(10.0 ** (-25.0 / 10.0))
_ONE, _ZERO, _TINY = np.float32(1.0), np.float32(0.0), np.float32(1e-12)
#: Share of the voice's model in the geometric mean; none at the lower edge of the voice, where its
#: spectrum ends too steeply for a smooth model.
_MODEL_SHARE = 0.6
_MODEL_FROM_HZ = (100.0, 250.0)
#: Share of the forward rule's own gain; none where a voice's fundamental lies, of which it takes more.
_FORWARD_SHARE = 0.35
_FORWARD_FROM_HZ = (150.0, 400.0)

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


@inlined_kernel
def _lsa_power(gamma: Any, prior: Any) -> Any:
    """Squared amplitude over noise by the log-spectral-amplitude estimate."""
    w = prior / (_ONE + prior)
    v = w * gamma
    return w * (v + lsa_excess(v))


@inlined_kernel
def _amplitude(gamma: Any, past: Any) -> Any:
    """The same by the decision-directed rule, from that of the frame before."""
    fresh = gamma - _ONE
    fresh = fresh if fresh > _ZERO else _ZERO
    prior = _INERTIA * past + (_ONE - _INERTIA) * fresh
    prior = prior if prior > _LEAST_SNR else _LEAST_SNR
    return _lsa_power(gamma, prior)


# One loop each and few arrays: with more the compiler cannot tell that none overlap, and takes one bin
# at a time.


@kernel
def _amplitudes(now: Frames, past: Frames, out: Frames) -> None:
    """Squared amplitudes of a frame from those of the one next to it."""
    for k in range(now.shape[0]):
        out[k] = _amplitude(now[k], past[k])


@kernel
def _priors(now: Frames, past: Frames, coming: Frames, out: Frames) -> None:
    """A-priori SNR from the amplitudes on both sides."""
    for k in range(now.shape[0]):
        fresh = now[k] - _ONE
        fresh = fresh if fresh > _ZERO else _ZERO
        prior = _NEAR_SHARE * (past[k] + coming[k]) + (_ONE - _INERTIA) * fresh
        out[k] = prior if prior > _LEAST_SNR else _LEAST_SNR


@kernel
def _draw_to_model(prior: Frames, model: Frames, share: Frames) -> None:
    """Geometric mean with the model, which is given as log2."""
    for k in range(prior.shape[0]):
        own, shape = fast_log2(prior[k]), model[k]
        shape = shape if shape < MOST_SNR_LOG2 else MOST_SNR_LOG2
        shape = shape if shape > LEAST_SNR_LOG2 else LEAST_SNR_LOG2
        prior[k] = fast_exp2(own + share[k] * (shape - own))


@inlined_kernel
def _gain(power: Any, gamma: Any) -> Any:
    """What makes this squared amplitude of the noisy one, at most one."""
    gain = np.sqrt(power / (gamma + _TINY))
    return gain if gain < _ONE else _ONE


@kernel
def _finish(
    now: Frames, prior: Frames, forward: Frames, absent: Frames, share: Frames, floor: Frames
) -> None:
    """Replace the SNR by ``p max(gain, floor) + (1 - p) floor``; ``forward`` are the amplitudes of the
    forward rule, of whose gain ``share`` is taken."""
    for k in range(now.shape[0]):
        gain = _gain(_lsa_power(now[k], prior[k]), now[k])
        gain += share[k] * (_gain(forward[k], now[k]) - gain)
        above = gain - floor[k]
        above = above if above > _ZERO else _ZERO
        now[k] = (_ONE - absent[k]) * above + floor[k]


@kernel
def _gains(
    snr: Frames, model: Frames, absent: Frames, shares: tuple[Frames, Frames], floor: Frames
) -> None:
    """Replace the SNR of every frame and bin by its gain.

    ``model`` and ``absent`` have a row for each pair of frames; ``shares`` are the weights of the
    model and of the forward rule's own gain in each bin.
    """
    of_model, of_forward = shares
    frames, bins = snr.shape
    # Of each frame, behind a row for what was before the first.
    forward = np.empty((frames + 1, bins), np.float32)
    forward[0] = _ZERO
    for t in range(frames):
        _amplitudes(snr[t], forward[t], forward[t + 1])
    coming, own = np.zeros(bins, np.float32), np.empty(bins, np.float32)
    prior = np.empty(bins, np.float32)
    for t in range(frames - 1, -1, -1):
        now = snr[t]
        _priors(now, forward[t], coming, prior)
        _draw_to_model(prior, model[t // 2], of_model)
        _amplitudes(now, coming, own)
        coming, own = own, coming
        _finish(now, prior, forward[t + 1], absent[t // 2], of_forward, floor)


def voice_gain(
    power: Frames,
    noise: NDArray[np.floating],
    threshold_scale: Frames,
    swell: Frames,
    floor: Frames,
    hop_s: float,
    bin_hz: float,
) -> Frames:
    """Gain of every frame and bin, between ``floor`` and 1.

    Parameters
    ----------
    power : (frames, bins) power of the noisy sound; the answer takes its place.
    noise : (bins,) or (frames, bins) power of the noise; above zero.
    threshold_scale : (neighbourhoods, bins) how much more than usual shows a voice (``dsp.presence``).
    swell : (bins,) how many times its power the noise is taken for, from 1 on.
    floor : (bins,) smallest gain.
    hop_s, bin_hz : distance of frames and of bins.
    """
    snr = np.divide(power, noise.astype(np.float32), out=power)
    freq_hz = np.arange(snr.shape[1]) * bin_hz
    shares = tuple(
        np.interp(freq_hz, from_hz, (0.0, share)).astype(np.float32)
        for from_hz, share in ((_MODEL_FROM_HZ, _MODEL_SHARE), (_FORWARD_FROM_HZ, _FORWARD_SHARE))
    )
    absent = absence(snr, threshold_scale, hop_s, bin_hz)
    snr /= swell
    model = voice_model(snr, hop_s, bin_hz)
    _gains(snr, model, absent, shares, floor)
    return snr
