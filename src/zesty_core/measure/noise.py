"""Noise floor, and the stretch of room tone it is best read from.

Levels of 10 ms hops are kept for the whole file; everything is decided from them at the end.
"Quiet" follows common practice (no published source): the quietest half second, grown to the longest
stretch that stays close to it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_core.measure.hops import HopEnergy
from zesty_core.signal import Block, Span
from zesty_core.units import SILENCE_DB, power_to_db

HOP_S = 0.010
_WINDOW_S = 0.5
_SMOOTHING_S = 0.1
#: Room tone may rise this far over the quietest half second; breaths and word tails rise further.
_STEADY_DB = 5.0
#: Less distance than this to the voice, and what was found is not the room but the voice.
_LEAST_BELOW_VOICE_DB = 6.0
_EDGE_S = 0.05
_LONGEST_S = 8.0
#: A hop below this holds no recorded room (24-bit quantisation noise lies at -146).
_DIGITAL_SILENCE = 10.0 ** (SILENCE_DB / 10.0)
#: What is left of a hop that holds nothing but the DC offset.
_FAINT = 2.0 * _DIGITAL_SILENCE


@dataclass(frozen=True)
class NoiseFloor:
    """Level of the background and where it was read."""

    level_dbfs: float
    source: str  # "room tone" or "quietest half second"
    span: Span


class NoiseMeter:
    """Keeps the mean power of every 10 ms hop (channels together)."""

    def __init__(self, sample_rate_hz: int, channels: int) -> None:
        self._rate = sample_rate_hz
        self._energy = HopEnergy(max(1, round(sample_rate_hz * HOP_S)), channels)
        self._channels = channels
        self._hops: list[NDArray[np.float32]] = []
        self._sum = np.zeros(channels)
        self._samples = 0

    def push(self, block: Block) -> None:
        """Take the next block into account."""
        self._sum += block.sum(axis=1, dtype=np.float64)
        self._samples += block.shape[1]
        energy = self._energy.push(block).sum(axis=0)
        power = energy / (self._energy.hop_samples * self._channels)
        self._hops.append(power.astype(np.float32))

    def powers(self) -> NDArray[np.float64]:
        """Mean power of every hop so far, without the DC offset: that is reported apart."""
        power = np.concatenate([*self._hops, np.empty(0)])
        offset = float(np.mean(np.square(self._sum / max(1, self._samples))))
        return np.where(power < _DIGITAL_SILENCE, power, np.maximum(power - offset, _FAINT))

    @property
    def hop_s(self) -> float:
        """Exact length of a hop."""
        return self._energy.hop_samples / self._rate

    def digital_silence_share(self) -> float:
        """Share of hops with nothing recorded in them."""
        power = self.powers()
        return float(np.mean(power < _DIGITAL_SILENCE)) if len(power) else 0.0

    def floor(self, room_tone: Span | None = None) -> NoiseFloor | None:
        """Level of the marked room tone, otherwise of the quietest half second."""
        power = self.powers()
        if room_tone is not None:
            start = int(room_tone.start_s / self.hop_s)
            stop = max(start + 1, round(room_tone.end_s / self.hop_s))
            mean = float(power[start:stop].mean()) if start < len(power) else 0.0
            level = power_to_db(mean)
            return NoiseFloor(level, "room tone", room_tone) if level > SILENCE_DB else None
        found = self._quietest(power)
        if found is None:
            return None
        start, level = found
        span = Span(start * self.hop_s, start * self.hop_s + _WINDOW_S)
        return NoiseFloor(level, "quietest half second", span)

    def _quietest(self, power: NDArray[np.float64]) -> tuple[int, float] | None:
        """First hop and level of the quietest half second outside digital silence."""
        window = _sliding_mean(power, self._hops_in(_WINDOW_S))
        silent = _sliding_mean((power < _DIGITAL_SILENCE).astype(float), self._hops_in(_WINDOW_S))
        if not len(window) or (silent > 0).all():
            return None
        window = np.where(silent > 0, np.inf, window)
        start = int(np.argmin(window))
        return start, power_to_db(float(window[start]))

    @property
    def dc_offset(self) -> NDArray[np.float64]:
        """Mean of each channel."""
        return self._sum / max(1, self._samples)

    def find_room_tone(self, voice_level_dbfs: float | None) -> Span | None:
        """Longest steady stretch close to the quietest half second; None when there is none."""
        power = self.powers()
        quietest = self._quietest(power)
        if quietest is None or voice_level_dbfs is None:
            return None
        start, level = quietest
        if voice_level_dbfs - level < _LEAST_BELOW_VOICE_DB:
            return None
        smooth = _sliding_mean(power, self._hops_in(_SMOOTHING_S))
        limit = 10.0 ** ((level + _STEADY_DB) / 10.0)
        steady = (smooth <= limit) & (smooth >= _DIGITAL_SILENCE)
        first, last = _longest_run(steady)
        edge = self._hops_in(_EDGE_S)
        begin, end = first + edge, last + self._hops_in(_SMOOTHING_S) - 1 - edge
        if (end - begin) * self.hop_s < _WINDOW_S:
            begin, end = start, start + self._hops_in(_WINDOW_S)
        return Span(
            round(begin * self.hop_s, 3),
            round(min(end * self.hop_s, begin * self.hop_s + _LONGEST_S), 3),
        )

    def _hops_in(self, time_s: float) -> int:
        return max(1, round(time_s / self.hop_s))


def _sliding_mean(values: NDArray[np.float64], width: int) -> NDArray[np.float64]:
    if len(values) < width:
        return np.empty(0)
    total = np.concatenate([[0.0], np.cumsum(values, dtype=np.float64)])
    return np.asarray(np.maximum(total[width:] - total[:-width], 0.0) / width)


def _longest_run(flags: NDArray[np.bool_]) -> tuple[int, int]:
    """First index and the one after the last of the longest run of true values."""
    edges = np.diff(np.concatenate([[0], flags.astype(np.int8), [0]]))
    starts, stops = np.flatnonzero(edges == 1), np.flatnonzero(edges == -1)
    if not len(starts):
        return 0, 0
    longest = int(np.argmax(stops - starts))
    return int(starts[longest]), int(stops[longest])
