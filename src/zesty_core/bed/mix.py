"""Mixing a voice with a bed that dips while the voice speaks.

The bed repeats with a short overlap where it is too short, and fades out at the end.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from zesty_core.bed.plan import BedPlan
from zesty_core.signal import BLOCK_SAMPLES, Block, SignalInfo, Source

_FADE_S, _OVERLAP_S = 2.0, 1.0


def mixed(voice: Source, plan: BedPlan, start: int, stop: int) -> tuple[Block, Block]:
    """Voice alone and bed alone between two samples of the mix; their sum is the mix."""
    info = voice.info
    stop = min(stop, plan.length_samples)
    own = np.zeros((info.channels, max(0, stop - start)), np.float32)
    low, high = max(start, plan.start), min(stop, plan.start + info.length_samples)
    if high > low:
        own[:, low - start : high - start] = voice.read(low - plan.start, high - plan.start)
    at = np.arange(start, stop)
    places = (np.arange(len(plan.dips_db)) + 0.5) * plan.hop
    gain = 10.0 ** (np.interp(at, places, plan.dips_db + plan.bed_gain_db) / 20.0) * faded(plan, at)
    return own, (_repeated(plan, at) * gain).astype(np.float32)


def faded(plan: BedPlan, at: NDArray[np.int64]) -> NDArray[np.float64]:
    """Factor of the fade at the end, at samples of the mix."""
    fade = min(plan.length_samples, round(_FADE_S * plan.voice.info.sample_rate_hz))
    return np.clip((plan.length_samples - at) / max(1, fade), 0.0, 1.0)


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


def _repeated(plan: BedPlan, at: NDArray[np.int64]) -> Block:
    """Samples of the bed at any place, going round with a cross-fade of equal power."""
    sound = plan.bed.sound
    period, overlap = round_of(plan)
    place = at % period
    out = sound[:, place]
    joins = (at >= period) & (place < overlap)
    if joins.any():
        share = place[joins] / overlap
        old = sound[:, period + place[joins]]
        out[:, joins] = out[:, joins] * np.sin(share * np.pi / 2) + old * np.cos(share * np.pi / 2)
    return out
