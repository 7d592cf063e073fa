"""Active speech level: how loud the voice is while it speaks. ITU-T P.56, method B.

The envelope is the magnitude smoothed twice with 30 ms, taken at about 1 kHz (P.56 asks for at
least 600 Hz). Its thresholds stand 1.5 dB apart instead of 6, which makes the interpolation
between them finer and the level independent of the recording's gain; the definition is the same.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from zesty_core.foundation.signal import Block
from zesty_core.measures.hops import MAGNITUDES, SAMPLES, SQUARES, HopSums, samples_per_ms
from zesty_core.runtime.kernel import kernel

_SMOOTHING_S = 0.030
_HANGOVER_S = 0.200
_MARGIN_DB = 15.9
_DB_PER_THRESHOLD = 1.5
#: An offset is believed little by little, as if so many milliseconds without one lay before.
_SURE_HOPS = 10.0
_THRESHOLDS_DB = np.arange(-105.0, 0.1, _DB_PER_THRESHOLD)


@kernel
def _advance(
    hops: NDArray[np.float64],
    hop_samples: float,
    smoothing: float,
    thresholds: NDArray[np.float64],
    stages: NDArray[np.float64],
    recent: NDArray[np.int64],
    held: NDArray[np.int64],
    place: NDArray[np.int64],
    counts: NDArray[np.int64],
    totals: NDArray[np.float64],
) -> None:
    """Carry the envelope's two smoothing stages on by one mean magnitude per hop.

    ``totals``: energy of the mean over channels, hops done, then the sum of samples of each channel.
    The magnitude counts from the offset, which is the mean so far: it is no larger than the root mean
    square around it, and without an offset always smaller.

    A threshold is active while the envelope reached it within the hangover, so ``counts[n]`` counts
    the hops in which just the lowest ``n`` are: as many as were reached at most in ``recent``, a ring
    over the hangover that holds each number ``held`` times. ``place``: where the next goes, the most in
    the ring, how many are reached now.
    """
    first, second = stages[0], stages[1]
    next_place, most, reached = place[0], place[1], place[2]
    last = thresholds.shape[0]
    channels = hops.shape[0]
    # Divisions take longer than all else.
    per_sample, per_channel = 1.0 / hop_samples, 1.0 / channels
    for hop in range(hops.shape[1]):
        squares, magnitude = 0.0, 0.0
        totals[1] += 1.0
        for channel in range(channels):
            squares += hops[channel, hop, SQUARES]
            totals[2 + channel] += hops[channel, hop, SAMPLES]
            offset = totals[2 + channel] / ((totals[1] + _SURE_HOPS) * hop_samples)
            mean = hops[channel, hop, SAMPLES] * per_sample
            power = hops[channel, hop, SQUARES] * per_sample
            around = math.sqrt(max(power - 2.0 * offset * mean + offset * offset, 0.0))
            magnitude += min(hops[channel, hop, MAGNITUDES] * per_sample, around) * per_channel
        totals[0] += squares * per_channel
        first = smoothing * first + (1.0 - smoothing) * magnitude
        second = smoothing * second + (1.0 - smoothing) * first
        # The envelope moves slowly, and how many thresholds it reaches with it.
        while reached < last and second >= thresholds[reached]:
            reached += 1
        while reached > 0 and second < thresholds[reached - 1]:
            reached -= 1
        held[recent[next_place]] -= 1
        held[reached] += 1
        recent[next_place] = reached
        next_place = next_place + 1 if next_place + 1 < recent.shape[0] else 0
        most = reached if reached > most else most
        while held[most] == 0:
            most -= 1
        counts[most] += 1
    stages[0], stages[1] = first, second
    place[0], place[1], place[2] = next_place, most, reached


class SpeechMeter:
    """Active level and share of time; channels are taken by their mean."""

    def __init__(self, sample_rate_hz: int, channels: int) -> None:
        self._sums = HopSums(samples_per_ms(sample_rate_hz), channels)
        rate = sample_rate_hz / self._sums.hop_samples
        self._smoothing = math.exp(-1.0 / (rate * _SMOOTHING_S))
        self._thresholds = 10.0 ** (_THRESHOLDS_DB / 20.0)
        self._stages = np.zeros(2)
        # The hop itself and the hangover after it.
        self._recent = np.zeros(round(rate * _HANGOVER_S) + 1, np.int64)
        self._counts = np.zeros(len(self._thresholds) + 1, np.int64)
        self._held = np.zeros_like(self._counts)
        self._held[0] = len(self._recent)
        self._place = np.zeros(3, np.int64)
        self._totals = np.zeros(2 + channels)

    def push(self, block: Block) -> None:
        """Take the next block into account."""
        self.push_hops(self._sums.push(block))

    def push_hops(self, hops: NDArray[np.float64]) -> None:
        """Take the sums of the next milliseconds into account."""
        _advance(
            hops,
            self._sums.hop_samples,
            self._smoothing,
            self._thresholds,
            self._stages,
            self._recent,
            self._held,
            self._place,
            self._counts,
            self._totals,
        )

    def level_and_activity(self) -> tuple[float, float] | None:
        """Active level in dBFS and activity factor 0..1; None when nothing is active."""
        hops_active = np.cumsum(self._counts[:0:-1])[::-1]
        heard = hops_active > 0
        if not heard.any():
            return None
        samples = max(1.0, self._totals[1] * self._sums.hop_samples)
        # An offset is no voice.
        offset_power = float(np.square(self._totals[2:] / samples).mean())
        energy = max(self._totals[0] - samples * offset_power, 1e-30)
        # Level over the time active at each threshold, and how far it stands above that threshold.
        active = hops_active[heard] * self._sums.hop_samples
        level_db = 10.0 * np.log10(energy / active)
        above = level_db - _THRESHOLDS_DB[heard] - _MARGIN_DB
        crossing = int(np.argmax(above <= 0.0)) if (above <= 0.0).any() else -1
        if crossing < 0:
            level = float(level_db[-1])
        elif crossing == 0:
            level = float(level_db[0])
        else:
            share = above[crossing - 1] / (above[crossing - 1] - above[crossing])
            level = float(
                level_db[crossing - 1] + share * (level_db[crossing] - level_db[crossing - 1])
            )
        factor = energy / samples / 10.0 ** (level / 10.0)
        return level, min(1.0, float(factor))
