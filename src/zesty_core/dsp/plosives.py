"""Thumps of breath from "p" and "b", and knocks on the stand: bursts below the voice.

They are looked for where no voice is, between 15 and 65 Hz, and turned down, bin by bin, to what the
surroundings have there. Common practice, no published source; limits were set on recorded voices.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.runs import merged_runs

Samples = NDArray[np.float64]
Spans = list[tuple[int, int]]

#: Low sound is looked at in so many samples per second, roughly.
_LOW_RATE_HZ = 1000
_BURST_HZ = (15.0, 65.0)
#: A burst's level against the voice level and against what is usual around it.
_UNDER_VOICE_DB, _OVER_USUAL_DB = 12.0, 14.0
_SMOOTH_S, _GAP_S, _LONGEST_S, _FADE_S = 0.02, 0.05, 0.4, 0.02
#: It lasts from and to where it stands so little over what is usual.
_ENDS_OVER_USUAL_DB = 3.0
#: Everything below this is turned down to what is usual, or to the loudest tenth where voices begin.
_HIGHEST_HZ, _VOICES_FROM_HZ, _LOUD_PERCENT = 170.0, 80.0, 90.0
_FRAME, _HOP = 64, 8
_NOTHING = 1e-14


def step_samples(sample_rate_hz: int) -> int:
    """Samples of the sound for one of the low sound; pieces begin on a multiple."""
    return 4 * max(2, round(sample_rate_hz / (4 * _LOW_RATE_HZ)))


class LowSound:
    """What lies below 200 Hz of a stretch of sound, at a low rate."""

    def __init__(self, sound: Samples, sample_rate_hz: int) -> None:
        from scipy.signal import butter, resample_poly, sosfiltfilt

        self._step = step_samples(sample_rate_hz)
        self._rate = sample_rate_hz / self._step
        self._length = len(sound)
        self.low = resample_poly(sound, 1, self._step)
        bands = butter(2, _BURST_HZ, "bandpass", fs=self._rate, output="sos")
        burst = sosfiltfilt(bands, self.low)
        width = round(_SMOOTH_S * self._rate)
        self._power = np.convolve(np.square(burst), np.full(width, 1.0 / width), "same") + _NOTHING
        self._usual = float(np.median(self._power))

    def bursts(self, voice_level_dbfs: float, stricter_db: float) -> list[tuple[int, int, float]]:
        """First sample of the sound, the one behind the last, and dB over what is usual."""
        least = max(
            10.0 ** ((voice_level_dbfs - _UNDER_VOICE_DB + stricter_db) / 10.0),
            self._usual * 10.0 ** (_OVER_USUAL_DB / 10.0),
        )
        quiet = self._usual * 10.0 ** (_ENDS_OVER_USUAL_DB / 10.0)
        quiet = max(quiet, 0.05 * least)
        found = []
        for a, b in merged_runs(self._power > least, round(_GAP_S * self._rate)):
            if b - a > _LONGEST_S * self._rate:
                continue
            peak_db = 10.0 * np.log10(self._power[a:b].max() / self._usual)
            start, stop = self._reaching(a, b, quiet)
            found.append((start * self._step, stop * self._step, float(peak_db)))
        return found

    def _reaching(self, a: int, b: int, quiet: float) -> tuple[int, int]:
        most, fade = round(0.15 * self._rate), round(_FADE_S * self._rate)
        start, stop = a, b
        while start > max(0, a - most) and self._power[start - 1] > quiet:
            start -= 1
        while stop < min(len(self._power), b + most) and self._power[stop] > quiet:
            stop += 1
        return max(0, start - fade), min(len(self._power), stop + fade)

    def excess(self, start: int, stop: int) -> Samples:
        """What is to be taken from the sound between two of its samples."""
        from scipy.signal import resample_poly

        a, b = start // self._step, -(-stop // self._step)
        first = max(0, a - _FRAME)
        frames = np.arange(first - first % _HOP, min(len(self.low), b + _FRAME) - _FRAME, _HOP)
        window = np.hanning(_FRAME + 1)[:-1]
        usual = self._usual_spectrum(a, b, window)
        below = np.fft.rfftfreq(_FRAME, 1.0 / self._rate) <= _HIGHEST_HZ
        made, weight = np.zeros(len(self.low)), np.full(len(self.low), 1e-9)
        for at in frames:
            spectrum = np.fft.rfft(self.low[at : at + _FRAME] * window)
            over = np.maximum(0.0, 1.0 - usual / (np.abs(spectrum) + _NOTHING))
            made[at : at + _FRAME] += np.fft.irfft(spectrum * over * below, _FRAME) * window
            weight[at : at + _FRAME] += window * window
        taken = np.zeros(len(self.low))
        taken[a:b] = (made / weight)[a:b] * _faded(b - a, round(_FADE_S * self._rate))
        return np.asarray(resample_poly(taken, self._step, 1)[: self._length][start:stop])

    def _usual_spectrum(self, a: int, b: int, window: Samples) -> Samples:
        """Of the frames around the burst that do not touch it."""
        reach = round(0.7 * self._rate)
        starts = np.arange(max(0, a - reach), min(len(self.low), b + reach) - _FRAME, _HOP)
        away = starts[(starts + _FRAME <= a) | (starts >= b)]
        if not len(away):
            return np.zeros(_FRAME // 2 + 1)
        sizes = np.abs(np.fft.rfft(self.low[away[:, None] + np.arange(_FRAME)] * window))
        voices = np.fft.rfftfreq(_FRAME, 1.0 / self._rate) >= _VOICES_FROM_HZ
        loud, middle = np.percentile(sizes, _LOUD_PERCENT, axis=0), np.median(sizes, axis=0)
        return np.where(voices, loud, middle)


def _faded(length: int, fade: int) -> Samples:
    """One, with soft ends."""
    at = np.arange(length) + 0.5
    ends = np.minimum(at, at[::-1]) / fade
    return np.asarray(np.square(np.sin(0.5 * np.pi * np.minimum(1.0, ends))))
