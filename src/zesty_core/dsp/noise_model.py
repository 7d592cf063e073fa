"""What the noise of a room looks like: learned from room tone, and followed where it drifts."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.noise_under_voice import NoiseUnderVoice, noise_under_voice
from zesty_core.dsp.presence import neutral_threshold_scale, presence_threshold_scale
from zesty_core.dsp.spectral import (
    BINS_PER_VALUE,
    FRAMES_PER_VALUE,
    OVERLAP,
    frame_spectra,
    hann,
    window_samples,
)
from zesty_core.foundation.signal import Block

Spectrum = NDArray[np.float64]

#: Frames this far over the middle one hold a click or a breath, not the room.
_ODD_FRAME_DB = 4.0
#: ... and this many times as far as a restless room swings by itself.
_ODD_FRAME_SWINGS = 3.5
#: A normal distribution has this share of it more than one deviation below its middle.
_DEVIATION_BELOW = 0.16
_SILENT_POWER = 1e-18
#: A frame this far under the learned noise holds nothing that was recorded.
_NOTHING_RECORDED = 1e-2
_ENOUGH_HEARD = 0.5
#: No room lies further over its own calmest moments.
_SWINGS_AT_MOST = 10.0 ** (12.0 / 10.0)
#: A restless room is taken for louder than its mean from here on, in full from there. Below, a voice's
#: fundamental would go with it.
_SWELL_FROM_HZ = (300.0, 1200.0)
_SWELL_AT_MOST = 10.0 ** (4.0 / 10.0)
#: With fewer frames than this the learned spectrum is smoothed, since single bins are unreliable.
_ENOUGH_FRAMES = 40


@dataclass(frozen=True)
class LearnedNoise:
    """Power per bin, and how much the room comes and goes by itself.

    Of that: how much more each bin takes for a voice (``presence_threshold_scale``), how many times
    its power each bin is taken for where it is turned down, and how low each band falls
    (``DriftTracker.lowest``).
    """

    power: Spectrum
    presence_threshold_scale: NDArray[np.float32]
    swell: NDArray[np.float32]
    lowest: NDArray[np.float64]

    @classmethod
    def of_facts(cls, facts: dict[str, Any]) -> LearnedNoise:
        """What ``as_facts`` gave."""
        power, lowest = (np.array(facts[name]) for name in ("power", "lowest"))
        presence_threshold_scale, swell = (
            np.array(facts[name], np.float32) for name in ("presence_threshold_scale", "swell")
        )
        return cls(power, presence_threshold_scale, swell, lowest)

    def as_facts(self) -> dict[str, Any]:
        """As plain lists."""
        return {
            "power": self.power.tolist(),
            "presence_threshold_scale": self.presence_threshold_scale.tolist(),
            "swell": self.swell.tolist(),
            "lowest": self.lowest.tolist(),
        }


def learn_noise(
    room_tone: Block | None, sample_rate_hz: int, spoken: Block | None = None
) -> LearnedNoise | None:
    """Learn the noise of a room, in the frames that noise reduction works on.

    Parameters
    ----------
    room_tone : (channels, samples) of the room alone. Frames that stand out in level (clicks, breaths)
        and frames of digital silence are left out.
    sample_rate_hz : rate of both sounds.
    spoken : (channels, samples) in which somebody speaks. As far as the noise under the words can be
        estimated, the estimate counts, and for the rest ``room_tone``.

    Returns
    -------
    Mean power and restlessness of each bin; None for digital silence, or when there is nothing.
    """
    tone = None if room_tone is None else _learned_from_tone(room_tone, sample_rate_hz)
    if spoken is None:
        return tone
    hop_and_bin = _hop_and_bin(window_samples(sample_rate_hz), sample_rate_hz)
    under = noise_under_voice(_frame_powers(spoken, sample_rate_hz), *hop_and_bin)
    return _both(tone, under, DriftTracker(*hop_and_bin)) if under else tone


def _frame_powers(sound: Block, sample_rate_hz: int) -> NDArray[np.float32]:
    """Power of all whole frames, shape (frames, bins), mean over channels."""
    shape = hann(window_samples(sample_rate_hz))
    spectra = (frame_spectra(np.ascontiguousarray(channel), shape) for channel in sound)
    return np.asarray(np.mean([np.abs(each) ** 2 for each in spectra], axis=0), np.float32)


def _learned_from_tone(room_tone: Block, rate: int) -> LearnedNoise | None:
    window = window_samples(rate)
    short = window - room_tone.shape[1]
    if short > 0:
        # Repeating the sample keeps its level where zeros would lower it.
        room_tone = np.tile(room_tone, (1, 1 + -(-short // room_tone.shape[1])))
    power = _frame_powers(room_tone, rate).astype(np.float64)
    level = power.sum(axis=1)
    power, level = power[level > _SILENT_POWER], level[level > _SILENT_POWER]
    if not len(power):
        return None
    power = power[_usual(10.0 * np.log10(level))]
    noise = power.mean(axis=0)
    if len(power) < _ENOUGH_FRAMES:
        noise = np.convolve(np.pad(noise, 2, "edge"), np.full(5, 0.2), "valid")
    # No bin is empty: a gain is a ratio over this.
    noise = np.asarray(np.maximum(noise, noise.max() * 1e-9), dtype=np.float64)
    snr = (power / noise).astype(np.float32)
    hop_s, bin_hz = _hop_and_bin(window, rate)
    lowest = DriftTracker(hop_s, bin_hz).lowest(snr)
    asked = presence_threshold_scale(snr, hop_s, bin_hz)
    return LearnedNoise(noise, asked, _swell(asked, bin_hz), lowest)


def _swell(asked: NDArray[np.float32], bin_hz: float) -> NDArray[np.float32]:
    """How many times its mean power a room is taken for, from what it asks of a voice."""
    share = np.interp(np.arange(asked.shape[1]) * bin_hz, _SWELL_FROM_HZ, (0.0, 1.0))
    swell = np.minimum(asked.mean(axis=0), _SWELL_AT_MOST) ** share
    return np.asarray(swell, np.float32)


def _hop_and_bin(window: int, rate: int) -> tuple[float, float]:
    """Distance of frames in seconds, and of bins in hertz."""
    return window / OVERLAP / rate, rate / window


def _both(tone: LearnedNoise | None, under: NoiseUnderVoice, tracker: DriftTracker) -> LearnedNoise:
    """Between the room tone and the estimate from under a voice, by trust in the latter."""
    bins = len(under.power)
    steady = neutral_threshold_scale(bins)
    # What moves in a tone that was found between words may be words.
    mean = np.ones(bins, np.float32)
    # Nothing but chance moves this one.
    still = np.ones((1, bins), np.float32)
    lowest = tracker.lowest(still)
    if tone is None:
        return LearnedNoise(under.power, steady, mean, lowest)
    tone_share = 1.0 - under.trust
    # A room is no softer than its own calmest moments, and a tone far louder than those is speech.
    limited = np.clip(tone.power, under.power, under.power * _SWINGS_AT_MOST)
    power = under.power**under.trust * limited**tone_share
    return LearnedNoise(
        power,
        (steady + tone_share * (tone.presence_threshold_scale - steady)).astype(np.float32),
        mean,
        lowest + tone_share * (tone.lowest - lowest),
    )


def _usual(levels_db: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Which frames are the room, and not a click or a breath.

    How far a room's level swings is estimated from how far it falls, where neither click nor breath is.
    """
    middle = np.median(levels_db)
    swing = middle - np.quantile(levels_db, _DEVIATION_BELOW)
    odd = max(_ODD_FRAME_DB, _ODD_FRAME_SWINGS * swing)
    return np.asarray(levels_db <= middle + odd)


@dataclass(frozen=True)
class DriftTracker:
    """Follows noise that slowly moves away from the learned spectrum.

    Per band the smallest short-time mean within two seconds on either side tells the noise there
    (minimum statistics, after Martin 2001), relative to what the same rule gives on the learned
    noise itself. Everything is local in time, so a passage gives what the whole file gives.
    """

    hop_s: float
    bin_hz: float

    REACH_S = 2.0
    MOST_DB = 9.0
    #: Less is no drift, and more is believed.
    _UNSURE_DB, _SURE_DB = 2.0, 3.5
    _MEAN_S = 0.08
    _BANDS = 20
    #: How many standard deviations the smallest of many short-time means lies below their mean.
    _DEPTH = 2.15
    #: Lower than this is not believed of any room.
    _FALLS_AT_MOST = 0.1

    @property
    def reach_frames(self) -> int:
        """Context wanted on either side."""
        return round((self.REACH_S + self._MEAN_S) / self.hop_s)

    def lowest(self, snr: NDArray[np.float32]) -> NDArray[np.float64]:
        """Smallest short-time mean to be expected in each band, relative to the mean of the noise.

        ``snr`` is that of the room tone. Steady noise falls as far as chance takes it, that of a
        restless room as far as it swings besides.
        """
        edges = self._edges(snr.shape[1])
        values = np.maximum(1.0, np.diff(edges) / BINS_PER_VALUE)
        values = values * max(1.0, self._frames(self._MEAN_S) / FRAMES_PER_VALUE)
        steady = np.maximum(0.35, 1.0 - self._DEPTH / np.sqrt(values))
        width = min(self._frames(self._MEAN_S), len(snr))
        sums = np.cumsum(np.pad(_band_means(snr, edges), ((1, 0), (0, 0))), axis=0)
        means = (sums[width:] - sums[:-width]) / width
        low = np.quantile(means, _DEVIATION_BELOW, axis=0)
        whole = means.mean(axis=0)
        # A band in which nothing at all was recorded does not swing.
        falls = np.divide(low, whole, out=np.ones_like(low), where=whole > 0.0)
        swings = np.minimum(falls, 1.0) ** self._DEPTH
        return np.asarray(np.minimum(steady, np.maximum(swings, self._FALLS_AT_MOST)))

    def scale(self, snr: NDArray[np.float32], lowest: NDArray[np.float64]) -> NDArray[np.float32]:
        """Factor on the learned noise power, shape of ``snr`` (frames, bins).

        ``lowest`` is what the function of that name found in the room tone.
        """
        from scipy.ndimage import maximum_filter1d, minimum_filter1d, uniform_filter1d

        edges = self._edges(snr.shape[1])
        bands = _band_means(snr, edges)
        # Digital silence says nothing about the room, nor do frames that reach into it.
        silent = bands.mean(axis=1) < _NOTHING_RECORDED
        heard = 1.0 - maximum_filter1d(silent.astype(float), 2 * OVERLAP + 1, mode="nearest")
        width = self._frames(self._MEAN_S)
        weight = uniform_filter1d(heard, width, mode="nearest")[:, None]
        mean = uniform_filter1d(bands * heard[:, None], width, axis=0, mode="nearest")
        mean = np.divide(mean, weight, out=np.ones_like(mean), where=weight > _ENOUGH_HEARD)
        low = minimum_filter1d(mean, 2 * self._frames(self.REACH_S) + 1, axis=0, mode="nearest")
        low = uniform_filter1d(low, self._frames(0.5), axis=0, mode="nearest") / lowest
        moved_db = 10.0 * np.log10(np.maximum(low, _NOTHING_RECORDED))
        # An estimate from a few seconds is off by a decibel or two where nothing moves.
        sure = (np.abs(moved_db) - self._UNSURE_DB) / (self._SURE_DB - self._UNSURE_DB)
        moved_db = np.clip(moved_db * np.clip(sure, 0.0, 1.0), -self.MOST_DB, self.MOST_DB)
        scale = 10.0 ** (moved_db / 10.0)
        return np.repeat(scale, np.diff(edges), axis=1).astype(np.float32)

    def _frames(self, time_s: float) -> int:
        return max(1, round(time_s / self.hop_s))

    def _edges(self, bins: int) -> NDArray[np.int64]:
        """Band edges: equal steps on a scale that is linear below and logarithmic above 500 Hz."""
        top = np.log1p(bins * self.bin_hz / 500.0)
        edges = np.expm1(np.linspace(0.0, top, self._BANDS + 1)) * 500.0 / self.bin_hz
        return np.unique(np.concatenate([[0], np.round(edges).astype(int), [bins]]))


def _band_means(snr: NDArray[np.float32], edges: NDArray[np.int64]) -> NDArray[np.floating]:
    """Mean over the bins of each band, for every frame."""
    return np.asarray(np.add.reduceat(snr, edges[:-1], axis=1) / np.diff(edges))
