"""A source with spans left out, joined by short cross-fades."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.signal import Block, ReadSource, SignalInfo, Source, Span

JOIN_S = 0.010


@dataclass(frozen=True)
class _Kept:
    """A kept stretch: samples of the source, and where it starts in what is left."""

    start: int
    stop: int
    at: int


class CutSource(ReadSource):
    """``source`` without ``cuts``. At a join the two sides overlap for 10 ms around the cut's edges.

    The sound just inside the cut is used for the overlap, so nothing that is kept gets shorter.
    """

    def __init__(self, source: Source, cuts: Sequence[Span]) -> None:
        self._source = source
        rate, length = source.info.sample_rate_hz, source.info.length_samples
        self._kept = _kept_stretches(cuts, rate, length)
        left = sum(k.stop - k.start for k in self._kept)
        if left == 0:
            raise BadInput("cut: the cuts leave nothing of the recording", path="cut")
        self._info = SignalInfo(rate, source.info.channels, left)
        self._half = int(JOIN_S * rate / 2)
        self._starts = [k.at for k in self._kept]
        self._ends = [k.at + k.stop - k.start for k in self._kept]

    @property
    def info(self) -> SignalInfo:
        """Rate, channels and length after the cuts."""
        return self._info

    def read(self, start: int, stop: int) -> Block:
        """Samples ``start`` to ``stop`` of what is left."""
        start, stop = max(0, start), min(stop, self._info.length_samples)
        out = np.zeros((self._info.channels, max(0, stop - start)), np.float32)
        # With their fades, stretches reach half a join beyond their places.
        first = bisect_right(self._ends, start - self._half)
        last = bisect_left(self._starts, stop + self._half)
        for index in range(first, last):
            self._add(out, start, stop, self._kept[index], index)
        return out

    def _add(self, out: Block, start: int, stop: int, kept: _Kept, index: int) -> None:
        """Add one stretch, reaching half a join beyond each cut edge with a fade."""
        before = self._reach(kept.start, -1) if index else 0
        after = self._reach(kept.stop, +1) if index + 1 < len(self._kept) else 0
        low = max(start, kept.at - before)
        high = min(stop, kept.at + kept.stop - kept.start + after)
        if high <= low:
            return
        shift = kept.start - kept.at
        piece = self._source.read(low + shift, high + shift).copy()
        position = np.arange(low, high) + shift
        gain = np.ones(high - low, np.float32)
        if index:
            gain *= _ramp(position, kept.start, before)
        if index + 1 < len(self._kept):
            gain *= 1.0 - _ramp(position, kept.stop, after)
        out[:, low - start : high - start] += piece * gain

    def _reach(self, edge: int, direction: int) -> int:
        """Half the join, less where the file's own edge is nearer."""
        room = edge if direction < 0 else self._source.info.length_samples - edge
        return min(self._half, room)


def _ramp(position: np.ndarray, edge: int, half: int) -> Block:
    """Rise from 0 to 1 over ``edge - half .. edge + half``; the two sides of a join add up to 1."""
    if half == 0:
        return (position >= edge).astype(np.float32)
    return np.clip((position - (edge - half) + 0.5) / (2 * half), 0.0, 1.0).astype(np.float32)


def _kept_stretches(cuts: Sequence[Span], rate: int, length: int) -> list[_Kept]:
    kept: list[_Kept] = []
    at = position = 0
    for cut in sorted(cuts, key=lambda c: c.start_s):
        start, stop = cut.samples(rate)
        if start > position:
            kept.append(_Kept(position, start, at))
            at += start - position
        position = max(position, min(stop, length))
    if position < length:
        kept.append(_Kept(position, length, at))
    return kept
