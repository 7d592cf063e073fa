"""Mixing a voice with a bed that dips while the voice speaks.

The bed repeats with a short overlap where it is too short, and fades out at the end.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from zesty_core.bed.plan import BedPlan
from zesty_core.foundation.signal import BLOCK_SAMPLES, Block, SignalInfo, Source

_FADE_S, _OVERLAP_S = 2.0, 1.0
_PIECE_HOPS = 8


def mixed(voice: Source, plan: BedPlan, start: int, stop: int) -> tuple[Block, Block]:
    """Voice alone and bed alone between two samples of the mix; their sum is the mix."""
    info = voice.info
    stop = min(stop, plan.length_samples)
    own = np.zeros((info.channels, max(0, stop - start)), np.float32)
    low, high = max(start, plan.start), min(stop, plan.start + info.length_samples)
    if high > low:
        own[:, low - start : high - start] = voice.read(low - plan.start, high - plan.start)
    bed = _repeated(plan, start, stop) * _gains(plan, start, stop)
    return own, bed.astype(np.float32)


def _gains(plan: BedPlan, start: int, stop: int) -> NDArray[np.float64]:
    """Factor of the bed at each sample: between the middles of two hops on a straight line in dB."""
    out = np.empty(max(0, stop - start))
    last = len(plan.dips_db) - 1
    piece = _PIECE_HOPS * plan.hop
    for low in range(start, stop, piece):
        at = np.arange(low, min(stop, low + piece))
        first, end = low // plan.hop - 1, at[-1] // plan.hop + 2
        hops = np.clip(np.arange(first, end), 0, last)
        levels = plan.dips_db[hops] + plan.bed_gain_db
        if np.all(levels == levels[0]):
            # Mostly the bed lies still, up or down.
            out[low - start : at[-1] + 1 - start] = 10.0 ** (levels[:1] / 20.0)
        else:
            places = (hops + 0.5) * plan.hop
            out[low - start : at[-1] + 1 - start] = 10.0 ** (np.interp(at, places, levels) / 20.0)
    if stop > plan.length_samples - _fade(plan):
        out *= faded(plan, np.arange(start, stop))
    return out


def _fade(plan: BedPlan) -> int:
    return min(plan.length_samples, round(_FADE_S * plan.voice.info.sample_rate_hz))


def faded(plan: BedPlan, at: NDArray[np.int64]) -> NDArray[np.float64]:
    """Factor of the fade at the end, at samples of the mix."""
    return np.clip((plan.length_samples - at) / max(1, _fade(plan)), 0.0, 1.0)


def round_of(plan: BedPlan) -> tuple[int, int]:
    """Samples after which the bed begins anew, and for how long old and new are heard together."""
    length = plan.bed.sound.shape[1]
    overlap = min(length // 4, round(_OVERLAP_S * plan.voice.info.sample_rate_hz))
    return length - overlap, overlap


class MixSource:
    """The mix as a source: it can be measured, limited and delivered like a recording."""

    def __init__(self, voice: Source, plan: BedPlan) -> None:
        self._voice, self._plan = voice, plan
        info = voice.info
        self.info = SignalInfo(info.sample_rate_hz, info.channels, plan.length_samples)

    def blocks(self, block_samples: int = BLOCK_SAMPLES) -> Iterator[Block]:
        """Blocks from the first to the last sample."""
        for start in range(0, self.info.length_samples, block_samples):
            yield self.read(start, start + block_samples)

    def read(self, start: int, stop: int) -> Block:
        """Samples ``start`` to ``stop``, clipped to what is there."""
        start = max(0, start)
        own, bed = mixed(self._voice, self._plan, start, max(start, stop))
        return own + bed


def _repeated(plan: BedPlan, start: int, stop: int) -> Block:
    """Samples of the bed, going round with a cross-fade of equal power."""
    sound = plan.bed.sound
    period, overlap = round_of(plan)
    out = np.empty((len(sound), max(0, stop - start)), np.float32)
    for begin in range(start - start % period, stop, period):
        low, high = max(start, begin), min(stop, begin + period)
        here = out[:, low - start : high - start]
        here[:] = sound[:, low - begin : high - begin]
        place = np.arange(low - begin, min(high - begin, overlap))
        if begin > 0 and len(place):
            share = place / overlap
            old = sound[:, period + place] * np.cos(share * np.pi / 2)
            here[:, : len(place)] = here[:, : len(place)] * np.sin(share * np.pi / 2) + old
    return out
