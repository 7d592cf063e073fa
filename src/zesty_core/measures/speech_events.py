"""What happens when: phrases and their levels, thumps of breath, noises between the words.

Decided from the energy of every 10 ms, all of it and that below 80 Hz. Common practice, no published
source; thresholds were set on the demo recordings and checked on their clean lines.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp import biquad
from zesty_core.dsp.cascade import Cascade
from zesty_core.dsp.runs import merged_runs, runs
from zesty_core.foundation.units import power_to_db
from zesty_core.measures.hops import SAMPLES, SQUARES, samples_per_ms
from zesty_core.measures.time_series import TimeSeries
from zesty_core.runtime.kernel import kernel

_MS_PER_HOP = 10
_HOP_S = _MS_PER_HOP / 1000.0
_THUMP_HZ = (25.0, 80.0)
#: Sound this far under the voice level is a gap between words.
_GAP_UNDER_VOICE_DB = 18.0
#: A phrase ends with a gap of so long, and shorter ones are no phrase.
PHRASE_GAP_S, LEAST_PHRASE_S, LEAST_WORD_S = 0.35, 0.8, 0.15
#: A thump stands this far over the voice level, and over what was there just before it.
_THUMP_OVER_VOICE_DB, _THUMP_RISE_DB = -3.0, 12.0
_THUMP_APART_S = 0.3
#: A thump is mostly what lies below 80 Hz; the onset of a vowel has more above.
_THUMP_SHARE = 0.5
#: A noise between words stands this far over the room, outside of breaths before a phrase.
_NOISE_OVER_ROOM_DB, _BREATH_S, _TAIL_S = 12.0, 0.6, 0.4


@dataclass(frozen=True)
class Phrase:
    """A stretch of speech between two gaps, and its level while it sounds."""

    start_s: float
    end_s: float
    level_dbfs: float


@dataclass(frozen=True)
class SpeechEvents:
    """Times of what was found."""

    phrases: tuple[Phrase, ...]
    thumps_s: tuple[float, ...]
    noises_s: tuple[float, ...]

    def as_json(self) -> dict[str, Any]:
        """JSON object."""
        return {
            "phrases": [asdict(phrase) for phrase in self.phrases],
            "thumps_s": list(self.thumps_s),
            "noises_s": list(self.noises_s),
        }

    def shifted(self, gain_db: float) -> SpeechEvents:
        """The same after a plain gain."""
        phrases = tuple(replace(p, level_dbfs=p.level_dbfs + gain_db) for p in self.phrases)
        return replace(self, phrases=phrases)


@kernel
def _gather(
    fine: NDArray[np.float64], low: NDArray[np.float32], samples: float, out: NDArray[np.float32]
) -> None:
    """Power of every 10 ms, all of it and that of ``low``, from the sums of milliseconds."""
    channels = fine.shape[0]
    for hop in range(out.shape[1]):
        squares, total, below = 0.0, 0.0, 0.0
        for k in range(hop * _MS_PER_HOP, (hop + 1) * _MS_PER_HOP):
            for channel in range(channels):
                squares += fine[channel, k, SQUARES]
                total += fine[channel, k, SAMPLES]
            below += np.float64(low[k]) * np.float64(low[k])
        count = samples * _MS_PER_HOP * channels
        # DC offset is no sound.
        around = squares / count - (total / count) * (total / count)
        out[0, hop] = np.float32(around if around > 0.0 else 0.0)
        out[1, hop] = np.float32(below / _MS_PER_HOP)


class SpeechEventsMeter:
    """Keeps the energies of every 10 ms."""

    def __init__(self, sample_rate_hz: int, channels: int) -> None:
        self._hop_samples = samples_per_ms(sample_rate_hz)
        rate = sample_rate_hz / self._hop_samples
        q = biquad.BUTTERWORTH_Q[12][0]
        rows = [
            biquad.high_pass(_THUMP_HZ[0], q, round(rate)),
            biquad.low_pass(_THUMP_HZ[1], q, round(rate)),
        ]
        self._low = Cascade(np.array(rows), 1)
        self._open, self._open_low = np.zeros((channels, 0, 2)), np.zeros(0, np.float32)
        self._hops = TimeSeries(2, np.float32)

    def push_hops(self, hops: NDArray[np.float64]) -> None:
        """Take the sums of the next milliseconds into account."""
        means = hops[..., SAMPLES].mean(axis=0, keepdims=True) / self._hop_samples
        low = np.append(self._open_low, self._low(means.astype(np.float32)))
        fine = np.concatenate([self._open, hops[..., : SAMPLES + 1]], axis=1)
        kept = np.empty((2, fine.shape[1] // _MS_PER_HOP), np.float32)
        _gather(fine, low, self._hop_samples, kept)
        self._hops.append(kept)
        used = kept.shape[1] * _MS_PER_HOP
        self._open, self._open_low = fine[:, used:], low[used:]

    def finish(
        self, voice_level_dbfs: float | None, noise_floor_dbfs: float | None
    ) -> SpeechEvents:
        """What was found, given the levels of voice and room; nothing without a voice."""
        if voice_level_dbfs is None or self._hops.hops == 0:
            return SpeechEvents((), (), ())
        phrases, noises = _phrases_and_noises(self._hops.row(0), voice_level_dbfs, noise_floor_dbfs)
        thumps = _thumps(self._hops.row(0), self._hops.row(1), voice_level_dbfs)
        return SpeechEvents(phrases, thumps, noises)


def _phrases_and_noises(
    power: NDArray[np.float32], voice_level_dbfs: float, noise_floor_dbfs: float | None
) -> tuple[tuple[Phrase, ...], tuple[float, ...]]:
    speaking = _smoothed(power) > _power(voice_level_dbfs - _GAP_UNDER_VOICE_DB)
    sounding = merged_runs(speaking, round(PHRASE_GAP_S / _HOP_S))
    phrases = tuple(
        _phrase(power, speaking, a, b) for a, b in sounding if (b - a) * _HOP_S >= LEAST_PHRASE_S
    )
    # A sound by itself that is shorter than any word is none.
    words = [(a, b) for a, b in sounding if (b - a) * _HOP_S >= LEAST_WORD_S]
    noises = () if noise_floor_dbfs is None else _noises(power, words, noise_floor_dbfs)
    return phrases, noises


def _power(level_db: float) -> float:
    return float(10.0 ** (level_db / 10.0))


def _smoothed(power: NDArray[np.float32]) -> NDArray[np.float32]:
    """Mean over 50 ms."""
    return np.convolve(power, np.full(5, 0.2, np.float32), "same")


def _phrase(
    power: NDArray[np.float32], speaking: NDArray[np.bool_], start: int, stop: int
) -> Phrase:
    sounding = power[start:stop][speaking[start:stop]]
    level = power_to_db(float(sounding.mean(dtype=np.float64)))
    return Phrase(round(start * _HOP_S, 2), round(stop * _HOP_S, 2), round(level, 2))


def _thumps(
    power: NDArray[np.float32], low: NDArray[np.float32], voice_level_dbfs: float
) -> tuple[float, ...]:
    """Sudden strong sound below 80 Hz, with little above."""
    strong = low > _power(voice_level_dbfs + _THUMP_OVER_VOICE_DB)
    found: list[float] = []
    before = round(0.1 / _HOP_S)
    for start, _ in runs(strong).tolist():
        calm = low[max(0, start - before) : max(1, start - 2)]
        rises = low[start : start + 3].max() > calm.mean() * _power(_THUMP_RISE_DB)
        # The filter is late by a hop or two.
        whole = power[max(0, start - 2) : start + 8].sum()
        if low[start : start + 8].sum() < _THUMP_SHARE * whole:
            continue
        if rises and (not found or start * _HOP_S - found[-1] > _THUMP_APART_S):
            found.append(round(start * _HOP_S, 2))
    return tuple(found)


def _noises(
    power: NDArray[np.float32], words: list[tuple[int, int]], noise_floor_dbfs: float
) -> tuple[float, ...]:
    """Sudden sounds away from the words."""
    loud = power > _power(noise_floor_dbfs + _NOISE_OVER_ROOM_DB)
    for start, stop in words:
        loud[max(0, start - round(_BREATH_S / _HOP_S)) : stop + round(_TAIL_S / _HOP_S)] = False
    return tuple(round(a * _HOP_S, 2) for a, b in merged_runs(loud, round(0.2 / _HOP_S)))
