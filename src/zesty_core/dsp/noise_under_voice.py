"""The noise of a room estimated from sound in which somebody speaks.

Even who reads on without a pause leaves every band alone now and then: between words, while the lips
are closed, below a hiss and above a vowel. How low the sound falls there tells the noise to begin with
(minimum statistics, after Martin 2001). From there the mean over all that holds no voice is taken
several times, each time with what ``presence.absence`` finds over the last (soft decisions, after Sohn
& Sung 1998). How low a steady noise falls by chance is known, so a room that swells and sags, of which
only the calmest moments would be left, shows.
"""

from __future__ import annotations

from dataclasses import dataclass
from statistics import NormalDist

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.box_means import means_between, means_over_time, running_sums
from zesty_core.dsp.presence import absence, neutral_threshold_scale
from zesty_core.dsp.spectral import BINS_PER_VALUE, FRAMES_PER_VALUE, OVERLAP

Spectrum = NDArray[np.float64]
Frames = NDArray[np.float32]

#: With fewer frames there is no telling.
_LEAST_FRAMES = 40
#: A frame of less power holds nothing recorded.
_SILENT_POWER = 1e-18
#: The shape of the spectrum to begin with: what a bin falls to in its quieter moments, over so many
#: frames and bins on either side.
_SHAPE_FRAMES, _SHAPE_BINS, _SHAPE_QUANTILE = 2, 3, 0.03
#: How low it lies: what stretches of few frames and many bins fall to.
_LOW_FRAMES, _LOW_HZ, _LOW_QUANTILE = 1, 1_500.0, 0.02
#: Estimated as if a voice were there for a third of the time.
_FREE_SHARE = 2.0 / 3.0
_TIMES = 2
#: So many frames of what was estimated before are taken along with the new.
_FRAMES_KEPT = 10.0
#: In steady noise both of these fall to the same mean; the higher lies these decibels over the lower
#: where nothing can be estimated any more, and where all is.
_STEADY_HZ, _STEADY_QUANTILES = 800.0, (0.02, 0.1)
_RESTLESS_DB, _STEADY_DB = 1.8, 1.0


@dataclass(frozen=True)
class NoiseUnderVoice:
    """Power of the noise per bin, and how far it can be trusted, 0..1."""

    power: Spectrum
    trust: float


def noise_under_voice(power: Frames, hop_s: float, bin_hz: float) -> NoiseUnderVoice | None:
    """The noise in frames that hold a voice; None where they are too few.

    ``power`` is that of frames, shape (frames, bins), mean over channels.
    """
    if len(power) >= _LEAST_FRAMES:
        power = power[_recorded(power)]
    if len(power) < _LEAST_FRAMES:
        return None
    noise = _lowest(power, bin_hz)
    nothing_known = neutral_threshold_scale(power.shape[1])
    for _ in range(_TIMES):
        snr = (power / noise).astype(np.float32)
        absent = np.repeat(absence(snr, nothing_known, hop_s, bin_hz), 2, axis=0)[: len(power)]
        held = (absent * power).sum(axis=0, dtype=np.float64)
        weight = absent.sum(axis=0, dtype=np.float64)
        noise = (held + _FRAMES_KEPT * noise) / (weight + _FRAMES_KEPT)
    # No bin is empty: a gain is a ratio over this.
    noise = np.maximum(noise, noise.max() * 1e-9)
    apart_db = _apart_db(power / noise, bin_hz)
    trust = np.clip((_RESTLESS_DB - apart_db) / (_RESTLESS_DB - _STEADY_DB), 0.0, 1.0)
    return NoiseUnderVoice(noise, float(trust))


def _recorded(power: Frames) -> NDArray[np.bool_]:
    """Frames that neither are digital silence nor reach into it."""
    silent = power.sum(axis=1) <= _SILENT_POWER
    beside = np.convolve(silent, np.ones(2 * OVERLAP + 1), "same")
    return np.asarray(beside < 0.5)


def _lowest(power: Frames, bin_hz: float) -> Spectrum:
    """Mean power of the noise, estimated from how low the sound falls."""
    shape = np.quantile(means_over_time(power, _SHAPE_FRAMES), _SHAPE_QUANTILE, axis=0)
    # No bin is empty: others are relative to it.
    shape = np.maximum(shape, max(shape.max() * 1e-9, _SILENT_POWER))
    shape = np.exp(means_over_time(np.log(shape)[:, None], _SHAPE_BINS)[:, 0])
    (low,) = _falls_to(power / shape, bin_hz, _LOW_HZ, (_LOW_QUANTILE,), _FREE_SHARE)
    return np.asarray(shape * low)


def _apart_db(snr: NDArray[np.floating], bin_hz: float) -> float:
    """How much louder the noise would be estimated from its higher moments than from its lowest."""
    low, high = _falls_to(snr, bin_hz, _STEADY_HZ, _STEADY_QUANTILES, 1.0)
    return float(np.median(10.0 * np.log10(high / low)))


def _falls_to(
    snr: NDArray[np.floating],
    bin_hz: float,
    width_hz: float,
    quantiles: tuple[float, ...],
    free_share: float,
) -> NDArray[np.float64]:
    """Mean of the steady noise that falls as low as stretches of ``snr`` do, shape (quantiles, bins).

    ``free_share`` of the time is taken to hold no voice.
    """
    bins = snr.shape[1]
    half = max(1, round(width_hz / bin_hz / 2))
    # Boxes are wide: some of them tell of all.
    centres = np.arange(0, bins, max(1, half // 4))
    first, stop = np.maximum(centres - half, 0), np.minimum(centres + half + 1, bins)
    means = means_over_time(means_between(running_sums(snr), first, stop), _LOW_FRAMES)
    values = (2 * _LOW_FRAMES + 1) / FRAMES_PER_VALUE * (stop - first) / BINS_PER_VALUE
    found = np.maximum(np.quantile(means, quantiles, axis=0), 1e-9)
    told = found / [_falls_by_chance(q / free_share, values) for q in quantiles]
    return np.array([np.interp(np.arange(bins), centres, row) for row in told])


def _falls_by_chance(share: float, values: NDArray[np.float64]) -> NDArray[np.float64]:
    """What ``share`` of the means over so many powers of a steady noise stay below, relative to it.

    A power has an exponential distribution, such a mean that of chi-square with twice as many degrees
    of freedom; its quantiles after Wilson & Hilferty 1931.
    """
    variance = 1.0 / (9.0 * values)
    return np.asarray((1.0 - variance + NormalDist().inv_cdf(share) * np.sqrt(variance)) ** 3)
