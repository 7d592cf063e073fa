"""Room tone of any length from a short sample, and a source with fills inserted."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zesty_core.foundation.signal import Block, ReadSource, SignalInfo, Source

_GRAIN_S = 0.4
_OVERLAP_S = 0.08
#: Places tried for each grain; the one that joins best is taken.
_TRIED = 24
_JOIN_S = 0.010


def room_fill(tone: Block, sample_rate_hz: int, samples: int) -> Block:
    """``samples`` of room tone woven from pieces of ``tone`` (channels, samples); always the same.

    Pieces overlap where they resemble each other most, so that a hum runs on; the gains of each
    overlap follow from how much they do (equal power when not at all, equal amplitude when wholly).
    """
    length = tone.shape[1]
    grain = min(length, round(_GRAIN_S * sample_rate_hz))
    overlap = max(1, min(grain // 3, round(_OVERLAP_S * sample_rate_hz)))
    random = np.random.default_rng(length)
    mono = tone.mean(axis=0, dtype=np.float64)
    out = np.zeros((len(tone), samples + grain), np.float32)
    out[:, :grain] = tone[:, :grain]
    end, last = grain, 0
    while end < samples:
        tail = mono[last + grain - overlap : last + grain]
        starts = random.integers(0, length - grain + 1, _TRIED)
        correlations = [_correlation(tail, mono[s : s + overlap]) for s in starts]
        best = int(np.argmax(correlations))
        last = int(starts[best])
        piece = tone[:, last : last + grain].copy()
        rise, fall = _fades(overlap, correlations[best])
        piece[:, :overlap] *= rise
        out[:, end - overlap : end] *= fall
        out[:, end - overlap : end - overlap + grain] += piece
        end += grain - overlap
    return out[:, :samples]


def _correlation(a: np.ndarray, b: np.ndarray) -> float:
    """Correlation coefficient, 0 to 1."""
    power = float(np.linalg.norm(a) * np.linalg.norm(b))
    return max(0.0, float(a @ b) / power) if power > 0 else 0.0


def _fades(samples: int, correlation: float) -> tuple[Block, Block]:
    """Rising and falling gains that keep the power of two sounds so alike."""
    rise = (np.arange(samples) + 0.5) / samples
    fall = 1.0 - rise
    power = np.sqrt(rise**2 + fall**2 + 2.0 * correlation * rise * fall)
    return (rise / power).astype(np.float32), (fall / power).astype(np.float32)


@dataclass(frozen=True)
class Fill:
    """Sound (channels, samples) inserted before sample ``at`` of a source."""

    at: int
    sound: Block


class FilledSource(ReadSource):
    """``source`` with fills inserted at full length, joined by 10 ms cross-fades.

    At each edge the source cross-fades with the fill mirrored there, so no part of the fill is used up.
    """

    def __init__(self, source: Source, fills: Sequence[Fill]) -> None:
        self._source = source
        self._fills = [f for f in sorted(fills, key=lambda f: f.at) if f.sound.shape[1]]
        info = source.info
        self._join = round(_JOIN_S * info.sample_rate_hz)
        added = sum(fill.sound.shape[1] for fill in self._fills)
        self._info = SignalInfo(info.sample_rate_hz, info.channels, info.length_samples + added)

    @property
    def info(self) -> SignalInfo:
        """Rate, channels and length with the fills."""
        return self._info

    def read(self, start: int, stop: int) -> Block:
        """Samples ``start`` to ``stop``, clipped to what is there."""
        start, stop = max(0, start), min(stop, self._info.length_samples)
        out = np.zeros((self._info.channels, max(0, stop - start)), np.float32)
        added, own_start, before = 0, 0, None
        for after in (*self._fills, None):
            own_stop = after.at if after else self._source.info.length_samples
            low, high = max(start, own_start + added), min(stop, own_stop + added)
            if high > low:
                own = self._source.read(low - added, high - added)
                span = (own_start, own_stop)
                out[:, low - start : high - start] = self._joined(
                    own, low - added, span, before, after
                )
            if after is None:
                break
            at, length = own_stop + added, after.sound.shape[1]
            low, high = max(start, at), min(stop, at + length)
            if high > low:
                out[:, low - start : high - start] = after.sound[:, low - at : high - at]
            added, own_start, before = added + length, own_stop, after
        return out

    def _joined(
        self, own: Block, at: int, span: tuple[int, int], before: Fill | None, after: Fill | None
    ) -> Block:
        """The source's samples from ``at`` on, faded where fills meet the stretch ``span``."""
        start, stop = span
        join = min(self._join, (stop - start) // 2)
        position = np.arange(at, at + own.shape[1])
        result = own.copy()
        for fill, distance in ((before, position - start), (after, stop - 1 - position)):
            if fill is None:
                continue
            sound = fill.sound[:, ::-1] if fill is before else fill.sound
            near = np.flatnonzero(distance < min(join, sound.shape[1]))
            if len(near):
                rise, fall = _fades(join, 0.0)
                place = distance[near]
                result[:, near] = result[:, near] * rise[place] + sound[:, place] * fall[place]
        return result
