"""Room tone of any length from a short sample of it, and a source with some before and after it."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from zesty_core.signal import BLOCK_SAMPLES, Block, SignalInfo, Source

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
        alike = [_likeness(tail, mono[s : s + overlap]) for s in starts]
        best = int(np.argmax(alike))
        last = int(starts[best])
        piece = tone[:, last : last + grain].copy()
        rise, fall = _fades(overlap, alike[best])
        piece[:, :overlap] *= rise
        out[:, end - overlap : end] *= fall
        out[:, end - overlap : end - overlap + grain] += piece
        end += grain - overlap
    return out[:, :samples]


def _likeness(a: np.ndarray, b: np.ndarray) -> float:
    """Correlation coefficient, 0 to 1."""
    power = float(np.linalg.norm(a) * np.linalg.norm(b))
    return max(0.0, float(a @ b) / power) if power > 0 else 0.0


def _fades(samples: int, likeness: float) -> tuple[Block, Block]:
    """Rising and falling gains that keep the power of two sounds so alike."""
    rise = (np.arange(samples) + 0.5) / samples
    fall = 1.0 - rise
    power = np.sqrt(rise**2 + fall**2 + 2.0 * likeness * rise * fall)
    return (rise / power).astype(np.float32), (fall / power).astype(np.float32)


class PaddedSource:
    """``source`` with ``before`` and ``after`` (channels, samples) joined on by 10 ms fades.

    Each of the two is as long as what it adds; its last (first) 10 ms are not needed for the join,
    which fades the source in and out over sound mirrored from the padding.
    """

    def __init__(self, source: Source, before: Block, after: Block) -> None:
        self._source = source
        info = source.info
        self._before, self._after = before, after
        self._start = before.shape[1]
        self._stop = self._start + info.length_samples
        self._join = min(round(_JOIN_S * info.sample_rate_hz), info.length_samples // 2)
        self._info = SignalInfo(info.sample_rate_hz, info.channels, self._stop + after.shape[1])

    @property
    def info(self) -> SignalInfo:
        """Rate, channels and length with the padding."""
        return self._info

    def blocks(self, block_samples: int = BLOCK_SAMPLES) -> Iterator[Block]:
        """Blocks from the first to the last sample."""
        for start in range(0, self._info.length_samples, block_samples):
            yield self.read(start, start + block_samples)

    def read(self, start: int, stop: int) -> Block:
        """Samples ``start`` to ``stop``, clipped to what is there."""
        start, stop = max(0, start), min(stop, self._info.length_samples)
        out = np.zeros((self._info.channels, max(0, stop - start)), np.float32)
        for piece, at in ((self._before, 0), (self._after, self._stop)):
            low, high = max(start, at), min(stop, at + piece.shape[1])
            if high > low:
                out[:, low - start : high - start] = piece[:, low - at : high - at]
        low, high = max(start, self._start), min(stop, self._stop)
        if high > low:
            own = self._source.read(low - self._start, high - self._start)
            out[:, low - start : high - start] = self._joined(own, low)
        return out

    def _joined(self, own: Block, at: int) -> Block:
        """The source's samples from ``at`` on, faded where padding meets them."""
        position = np.arange(at, at + own.shape[1])
        result = own.copy()
        for padding, distance in (
            (self._before[:, ::-1], position - self._start),
            (self._after, self._stop - 1 - position),
        ):
            near = np.flatnonzero(distance < min(self._join, padding.shape[1]))
            if len(near):
                rise, fall = _fades(self._join, 0.0)
                place = distance[near]
                result[:, near] = result[:, near] * rise[place] + padding[:, place] * fall[place]
        return result
