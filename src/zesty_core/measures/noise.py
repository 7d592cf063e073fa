"""Noise floor: the level of marked room tone, otherwise of the quietest half second (common
practice, no published source); of a room that is restless by itself, that of a stretch of it.

Levels of 10 ms hops are kept for the whole file; everything is decided from them at the end.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_core.foundation.signal import Block, Span
from zesty_core.foundation.units import SILENCE_DB, power_to_db
from zesty_core.measures.found_room import (
    DIGITAL_SILENCE,
    QUIETEST_S,
    FoundRoomTone,
    RoomToneSearch,
)
from zesty_core.measures.hops import SAMPLES, SQUARES, HopSums, samples_per_ms
from zesty_core.measures.noise_floor_shift import GAP_S, NoiseFloorShift, noise_floor_shift
from zesty_core.measures.time_series import TimeSeries
from zesty_core.measures.voiced import VoicedMeter
from zesty_core.runtime.kernel import kernel

_MS_PER_HOP = 10
#: Windows that are handled together; copies of a whole time series would take room.
_WINDOWS_TOGETHER = 65_536


@dataclass(frozen=True)
class NoiseFloor:
    """Level of the background and where it was read."""

    level_dbfs: float
    source: str  # "room tone" or "quietest half second"
    span: Span


@kernel
def _gather(
    fine: NDArray[np.float64],
    samples: float,
    power: NDArray[np.float32],
    means: NDArray[np.float32],
    silent: NDArray[np.bool_],
) -> None:
    """Level, offset and silence of each hop of ``samples`` from the sums of its milliseconds."""
    channels = fine.shape[0]
    for hop in range(power.shape[0]):
        around = 0.0
        for channel in range(channels):
            squares, total = 0.0, 0.0
            for k in range(hop * _MS_PER_HOP, (hop + 1) * _MS_PER_HOP):
                squares += fine[channel, k, SQUARES]
                total += fine[channel, k, SAMPLES]
            squares, mean = squares / samples, total / samples
            # Apart, since next to a large offset a soft room would be lost in rounding.
            around += max(squares - mean * mean, 0.0) / channels
            means[channel, hop] = np.float32(mean)
        power[hop] = np.float32(around)
        # An offset by itself is as silent as nothing.
        silent[hop] = around < DIGITAL_SILENCE


@kernel
def _window_power(
    power: NDArray[np.float32],
    means: NDArray[np.float32],
    width: int,
    out: NDArray[np.float32],
) -> None:
    """Mean power of ``width`` hops from each hop on, around the mean of each channel there."""
    last = width - 1
    if out.shape[0] == 0:
        return
    entered, left = 0.0, 0.0
    for n in range(last):
        entered += power[n]
    for k in range(out.shape[0]):
        entered += power[k + last]
        out[k] = (entered - left) / width
        left += power[k]
    for channel in range(means.shape[0]):
        mean = means[channel]
        entered, left, squares_entered, squares_left = 0.0, 0.0, 0.0, 0.0
        for n in range(last):
            now = np.float64(mean[n])
            entered += now
            squares_entered += now * now
        for k in range(out.shape[0]):
            now, gone = np.float64(mean[k + last]), np.float64(mean[k])
            entered += now
            squares_entered += now * now
            around = (entered - left) / width
            apart = (squares_entered - squares_left) / width - around * around
            out[k] += apart / means.shape[0]
            left += gone
            squares_left += gone * gone
    for k in range(out.shape[0]):
        out[k] = max(out[k], 0.0)


class NoiseInSpan:
    """Level of a marked span, exact to the sample, without its DC offset."""

    def __init__(self, span: Span, sample_rate_hz: int, channels: int) -> None:
        self._span, (self._start, self._stop) = span, span.samples(sample_rate_hz)
        self._energy, self._sum = 0.0, np.zeros(channels)
        self._samples = self._done = 0

    def push(self, block: Block) -> None:
        """Take the next block into account."""
        inside = block[:, max(0, self._start - self._done) : max(0, self._stop - self._done)]
        self._energy += float(np.square(inside, dtype=np.float64).sum())
        self._sum += inside.sum(axis=1, dtype=np.float64)
        self._samples += inside.shape[1]
        self._done += block.shape[1]

    def floor(self) -> NoiseFloor | None:
        """What was found there; None for digital silence."""
        samples = max(1, self._samples)
        spread = self._energy / samples - float(np.square(self._sum / samples).sum())
        level = power_to_db(spread / len(self._sum))
        return NoiseFloor(level, "room tone", self._span) if level > SILENCE_DB else None


class NoiseMeter:
    """Keeps level and offset of every 10 ms, gathered from hops of a millisecond."""

    def __init__(self, sample_rate_hz: int, channels: int) -> None:
        self._rate = sample_rate_hz
        self._sums = HopSums(samples_per_ms(sample_rate_hz), channels)
        self._open = np.zeros((channels, 0, 2))
        #: Power of each hop around its mean, averaged over channels; and the mean of each channel.
        self._power, self._means = TimeSeries(1, np.float32), TimeSeries(channels, np.float32)
        #: Hops with nothing recorded in them.
        self._silent = TimeSeries(1, np.bool_)
        self._voiced = VoicedMeter(channels)

    def push(self, block: Block) -> None:
        """Take the next block into account."""
        self.push_hops(self._sums.push(block))

    def push_hops(self, hops: NDArray[np.float64]) -> None:
        """Take the sums of the next milliseconds into account."""
        fine = np.concatenate([self._open, hops[..., : SAMPLES + 1]], axis=1)
        whole = fine.shape[1] // _MS_PER_HOP
        power = np.empty(whole, np.float32)
        means = np.empty((len(fine), whole), np.float32)
        silent = np.empty(whole, np.bool_)
        _gather(fine, self._sums.hop_samples * _MS_PER_HOP, power, means, silent)
        self._power.append(power[None])
        self._means.append(means)
        self._silent.append(silent[None])
        self._open = fine[:, whole * _MS_PER_HOP :]
        self._voiced.push_hops(hops)

    def _windows(self, hops: int) -> NDArray[np.float32]:
        """Power of what lasts so many hops from each on, without its DC: that is reported apart."""
        out = np.empty(max(0, self._power.hops - hops + 1), np.float32)
        for first in range(0, len(out), _WINDOWS_TOGETHER):
            some = out[first : first + _WINDOWS_TOGETHER]
            end = first + len(some) + hops - 1
            power, means = self._power.between(first, end), self._means.between(first, end)
            _window_power(power[0], means, hops, some)
        return out

    @property
    def hop_s(self) -> float:
        """Exact length of a hop."""
        return self._sums.hop_samples * _MS_PER_HOP / self._rate

    def digital_silence_share(self) -> float:
        """Share of hops with nothing recorded in them."""
        silent = self._silent.row(0)
        return float(silent.mean()) if len(silent) else 0.0

    def floor(self) -> NoiseFloor | None:
        """Level of the quietest half second."""
        found = self._quietest(QUIETEST_S)
        if found is None:
            return None
        start, level = found
        begin = round(start * self.hop_s, 3)
        span = Span(begin, begin + QUIETEST_S)
        return NoiseFloor(level, "quietest half second", span)

    def floor_in(self, tone: FoundRoomTone) -> NoiseFloor:
        """Level of a stretch that was found."""
        first, hops = round(tone.span.start_s / self.hop_s), self._hops_in(tone.span.duration_s)
        hops = min(hops, self._power.hops - first)
        power, around = np.empty(1, np.float32), self._power.between(first, first + hops)[0]
        _window_power(around, self._means.between(first, first + hops), hops, power)
        return NoiseFloor(max(power_to_db(float(power[0])), SILENCE_DB), "room tone", tone.span)

    def _quietest(self, length_s: float) -> tuple[int, float] | None:
        """First hop and level of the quietest window outside digital silence."""
        window = self._recorded_windows(self._hops_in(length_s))
        if not len(window) or window.min() == np.inf:
            return None
        start = int(np.argmin(window))
        return start, max(power_to_db(float(window[start])), SILENCE_DB)

    def _recorded_windows(self, width: int) -> NDArray[np.float32]:
        """The same, infinite where there is digital silence in it."""
        window = self._windows(width)
        silent = self._silent.row(0)
        if silent.any():
            # How many silent hops lie before each, so that those within a window can be counted.
            before = np.concatenate([[0], np.cumsum(silent, dtype=np.int32)])
            window[before[width:] > before[:-width]] = np.inf
        return window

    def room_tones(self, voice_level_dbfs: float | None) -> list[FoundRoomTone]:
        """Stretches in which nobody seems to speak, the most useful (longest) first."""
        if voice_level_dbfs is None:
            return []
        search = RoomToneSearch(self._windows, self._quietest, self._voiced.flags(), self.hop_s)
        return search.found(voice_level_dbfs)

    def noise_floor_shift(self, voice_level_dbfs: float | None) -> NoiseFloorShift | None:
        """Where the room is louder for long than elsewhere."""
        if voice_level_dbfs is None:
            return None
        gaps = self._recorded_windows(self._hops_in(GAP_S))
        return noise_floor_shift(gaps, self.hop_s, voice_level_dbfs)

    def _hops_in(self, time_s: float) -> int:
        return max(1, round(time_s / self.hop_s))
