"""Mixing a voice with a bed that dips while the voice speaks.

The voice speaks where its level over 20 ms lies within 16 dB of its active level (the margin of
ITU-T P.56). The dip begins before the word, by the attack, because the whole voice is known. The bed
repeats with a short overlap where it is too short, and is brought to the voice's rate and loudness.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.audio.resample import resampled
from zesty_core.bed.settings import BedSettings
from zesty_core.dsp.denormals import flushing_to_zero
from zesty_core.errors import BadInput
from zesty_core.measure.level_histogram import levels_db
from zesty_core.measure.loudness import LoudnessMeter
from zesty_core.measure.report import FullMeter
from zesty_core.signal import BLOCK_SAMPLES, Block, SignalInfo, Source
from zesty_core.units import db_to_factor

_HOP_S = 0.02
_MARGIN_DB = 16.0
_FADE_S, _OVERLAP_S = 2.0, 1.0
#: A bed longer than this is not looped but cut; it has to be held in memory.
LONGEST_BED_S = 900.0
_LEAST_BED_S = 1.0
_NOTHING_LUFS = -70.0


@dataclass(frozen=True)
class BedPlan:
    """All that the mix needs to know of the whole: the bed at the right level, and its gain by hop."""

    settings: BedSettings
    bed: Block
    gain_db: NDArray[np.float64]
    hop: int
    start: int
    length_samples: int
    voice_lufs: float
    speaks: NDArray[np.bool_]


def plan_bed(voice: Source, bed: Source, settings: BedSettings) -> BedPlan:
    """Measure both and settle the dips.

    Raises :class:`BadInput` when one of them is silent, or the bed too short or too long.
    """
    rate, channels = voice.info.sample_rate_hz, voice.info.channels
    if not _LEAST_BED_S <= bed.info.duration_s <= LONGEST_BED_S:
        raise BadInput(
            f"bed: must last {_LEAST_BED_S:g} to {LONGEST_BED_S:g} s, "
            f"got {bed.info.duration_s:.1f} s",
            path="bed",
        )
    hop = max(1, round(_HOP_S * rate))
    with flushing_to_zero():
        voice_lufs, active_dbfs, levels = _measured(voice, hop)
        sound = _fitting(bed, rate, channels)
        bed_lufs = _loudness(sound, rate)
    if voice_lufs is None or active_dbfs is None:
        raise BadInput("voice: no speech was found in it, so the bed cannot follow it")
    if bed_lufs is None:
        raise BadInput("bed: is silent; choose another", path="bed")
    sound = sound * np.float32(db_to_factor(voice_lufs + settings.level_lu - bed_lufs))
    start = round(settings.voice_start_s * rate)
    length = start + voice.info.length_samples + round(settings.tail_s * rate)
    lead = np.zeros(math.ceil(start / hop), bool)
    rest = np.zeros(max(0, math.ceil(length / hop) - len(lead) - len(levels)), bool)
    speaks = np.concatenate([lead, levels > active_dbfs - _MARGIN_DB, rest])
    gain = _dips(speaks, settings, _HOP_S)
    return BedPlan(settings, sound, gain, hop, start, length, voice_lufs, speaks)


def mixed(voice: Source, plan: BedPlan, start: int, stop: int) -> tuple[Block, Block]:
    """Voice alone and bed alone between two samples of the mix; their sum is the mix."""
    info = voice.info
    stop = min(stop, plan.length_samples)
    own = np.zeros((info.channels, max(0, stop - start)), np.float32)
    low, high = max(start, plan.start), min(stop, plan.start + info.length_samples)
    if high > low:
        own[:, low - start : high - start] = voice.read(low - plan.start, high - plan.start)
    at = np.arange(start, stop)
    places = (np.arange(len(plan.gain_db)) + 0.5) * plan.hop
    gain = 10.0 ** (np.interp(at, places, plan.gain_db) / 20.0)
    fade = min(plan.length_samples, round(_FADE_S * info.sample_rate_hz))
    gain *= np.clip((plan.length_samples - at) / max(1, fade), 0.0, 1.0)
    return own, (_repeated(plan.bed, at, info.sample_rate_hz) * gain).astype(np.float32)


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


def distance_of(voice: Source, plan: BedPlan, points: int = 400) -> dict[str, Any]:
    """How far the voice stands over the bed, in dB over time while it speaks; None elsewhere.

    ``typical_db`` is the median, ``least_db`` what nine tenths of the words stay over.
    """
    hops = len(plan.speaks)
    apart = np.full(hops, np.nan)
    for first in range(0, hops, 512):
        last = min(hops, first + 512)
        own, bed = mixed(voice, plan, first * plan.hop, last * plan.hop)
        both = [levels_db(sound, plan.hop) for sound in (own, bed)]
        count = min(map(len, both))
        apart[first : first + count] = both[0][:count] - both[1][:count]
    apart[~plan.speaks] = np.nan
    known = apart[~np.isnan(apart)]
    every = max(1, math.ceil(hops / points))
    means = [_mean(apart[at : at + every]) for at in range(0, hops, every)]
    return {
        "step_s": every * plan.hop / voice.info.sample_rate_hz,
        "distance_db": means,
        "bed_gain_db": [round(float(v), 1) for v in plan.gain_db[::every]],
        "typical_db": round(float(np.median(known)), 1) if len(known) else None,
        "least_db": round(float(np.quantile(known, 0.1)), 1) if len(known) else None,
    }


def _mean(values: NDArray[np.float64]) -> float | None:
    known = values[~np.isnan(values)]
    return round(float(known.mean()), 1) if len(known) else None


def _measured(voice: Source, hop: int) -> tuple[float | None, float | None, NDArray[np.float64]]:
    meter = FullMeter(voice.info, parts=frozenset({"speech", "noise", "loudness"}))
    levels = []
    for start in range(0, voice.info.length_samples, hop * 512):
        block = voice.read(start, min(voice.info.length_samples, start + hop * 512))
        meter.push(block)
        levels.append(levels_db(block, hop))
    measures = meter.finish()
    return (
        measures.integrated_lufs,
        measures.voice_level_dbfs,
        np.concatenate([*levels, np.empty(0)]),
    )


def _fitting(bed: Source, rate: int, channels: int) -> Block:
    """The whole bed at the voice's rate and number of channels."""
    sound = bed.read(0, bed.info.length_samples)
    if len(sound) > channels:
        sound = sound.mean(axis=0, keepdims=True)
    elif len(sound) < channels:
        sound = np.repeat(sound, channels, axis=0)
    if bed.info.sample_rate_hz != rate:
        sound = resampled(sound, bed.info.sample_rate_hz, rate)
    return np.ascontiguousarray(sound, np.float32)


def _loudness(sound: Block, rate: int) -> float | None:
    meter = LoudnessMeter(rate, len(sound))
    meter.push(sound)
    level = meter.integrated_lufs()
    return level if level is not None and level > _NOTHING_LUFS else None


def _dips(speaks: NDArray[np.bool_], settings: BedSettings, hop_s: float) -> NDArray[np.float64]:
    """Gain of the bed at each hop: down before words by the attack, kept over short pauses."""
    held = speaks.copy()
    most = round(settings.hold_ms / 1000.0 / hop_s)
    words = np.flatnonzero(speaks)
    for before, after in itertools.pairwise(words):
        if after - before <= most:
            held[before:after] = True
    down = settings.dip_db / max(1e-3, settings.attack_ms / 1000.0) * hop_s
    up = settings.dip_db / max(1e-3, settings.release_ms / 1000.0) * hop_s
    gain = np.where(held, -settings.dip_db, 0.0)
    # A straight slope down that arrives with the word, and one up after it.
    for at in range(len(gain) - 2, -1, -1):
        gain[at] = min(gain[at], gain[at + 1] + down)
    for at in range(1, len(gain)):
        gain[at] = min(gain[at], gain[at - 1] + up)
    return np.asarray(gain, np.float64)


def _repeated(bed: Block, at: NDArray[np.int64], rate: int) -> Block:
    """Samples of the bed at any place, going round with a cross-fade of equal power."""
    length = bed.shape[1]
    overlap = min(length // 4, round(_OVERLAP_S * rate))
    period = length - overlap
    place = at % period
    out = bed[:, place].astype(np.float32)
    joins = (at >= period) & (place < overlap)
    if joins.any():
        share = place[joins] / overlap
        old = bed[:, period + place[joins]]
        out[:, joins] = out[:, joins] * np.sin(share * np.pi / 2) + old * np.cos(share * np.pi / 2)
    return out
