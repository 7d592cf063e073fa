"""How a bed lies under a voice: how loud it is, and where it dips.

The voice speaks where its level over 20 ms lies within 16 dB of its active level (the margin of
ITU-T P.56). The dip begins before the word, by the attack, because the whole voice is known. What has
to be known of voice and bed is measured once; settings decide the rest in no time.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_core.audio.resample import resampled
from zesty_core.bed.settings import BedSettings
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.signal import Block, SignalInfo, Source
from zesty_core.measures.full_meter import FullMeter
from zesty_core.measures.level_histogram import levels_db
from zesty_core.measures.loudness import LoudnessMeter
from zesty_core.runtime.denormals import flushing_to_zero

HOP_S = 0.02
_HOPS_AT_ONCE = 512
_MARGIN_DB = 16.0
#: A bed longer than this is not looped but cut; it has to be held in memory.
LONGEST_BED_S = 900.0
_LEAST_BED_S = 1.0
_NOTHING_LUFS = -70.0


def hop_samples(sample_rate_hz: int) -> int:
    """Samples of 20 ms."""
    return max(1, round(HOP_S * sample_rate_hz))


@dataclass(frozen=True)
class MeasuredVoice:
    """What of a whole voice decides how a bed lies under it; levels by 20 ms."""

    info: SignalInfo
    lufs: float
    active_dbfs: float
    levels_dbfs: NDArray[np.float64]


@dataclass(frozen=True)
class HeldBed:
    """A whole bed at the rate and with the channels of a voice; levels by 20 ms."""

    sound: Block
    lufs: float
    levels_dbfs: NDArray[np.float64]


@dataclass(frozen=True)
class BedPlan:
    """All that a mix needs to know of the whole: the bed, how loud, and its gain by hop."""

    settings: BedSettings
    voice: MeasuredVoice
    bed: HeldBed
    bed_gain_db: float
    dips_db: NDArray[np.float64]
    start: int
    length_samples: int
    speaks: NDArray[np.bool_]

    @property
    def hop(self) -> int:
        """Samples from one gain to the next."""
        return hop_samples(self.voice.info.sample_rate_hz)


def measure_voice(voice: Source) -> MeasuredVoice:
    """Raises :class:`BadInput` when nobody speaks in it."""
    info = voice.info
    hop = hop_samples(info.sample_rate_hz)
    meter = FullMeter(info, parts=frozenset({"speech", "noise", "loudness"}))
    levels = [np.empty(0)]
    with flushing_to_zero():
        for block in voice.blocks(hop * _HOPS_AT_ONCE):
            meter.push(block)
            levels.append(levels_db(block, hop))
        measures = meter.finish()
    if measures.integrated_lufs is None or measures.voice_level_dbfs is None:
        raise BadInput("voice: no speech was found in it, so the bed cannot follow it")
    return MeasuredVoice(
        info, measures.integrated_lufs, measures.voice_level_dbfs, np.concatenate(levels)
    )


def hold_bed(bed: Source, sample_rate_hz: int, channels: int) -> HeldBed:
    """Raises :class:`BadInput` when it is silent, too short or too long."""
    if not _LEAST_BED_S <= bed.info.duration_s <= LONGEST_BED_S:
        raise BadInput(
            f"bed: must last {_LEAST_BED_S:g} to {LONGEST_BED_S:g} s, "
            f"got {bed.info.duration_s:.1f} s",
            path="bed",
        )
    sound = bed.read(0, bed.info.length_samples)
    if len(sound) > channels:
        sound = sound.mean(axis=0, keepdims=True)
    elif len(sound) < channels:
        sound = np.repeat(sound, channels, axis=0)
    if bed.info.sample_rate_hz != sample_rate_hz:
        sound = resampled(sound, bed.info.sample_rate_hz, sample_rate_hz)
    sound = np.ascontiguousarray(sound, np.float32)
    meter = LoudnessMeter(sample_rate_hz, channels)
    with flushing_to_zero():
        meter.push(sound)
        lufs = meter.integrated_lufs()
    if lufs is None or lufs <= _NOTHING_LUFS:
        raise BadInput("bed: is silent; choose another", path="bed")
    return HeldBed(sound, lufs, levels_db(sound, hop_samples(sample_rate_hz)))


def plan_bed(voice: MeasuredVoice, bed: HeldBed, settings: BedSettings) -> BedPlan:
    """Decide how music lies under a voice.

    Parameters
    ----------
    voice : levels of the voice at each hop, and its loudness.
    bed : the music at the voice's rate and channels, and its loudness.
    settings : level towards the voice in LU, dip in dB, times in seconds and milliseconds.

    Returns
    -------
    Gain of the music at each hop, where the voice begins, and the length of the mix.
    """
    rate = voice.info.sample_rate_hz
    hop, levels = hop_samples(rate), voice.levels_dbfs
    start = round(settings.voice_start_s * rate)
    length = start + voice.info.length_samples + round(settings.tail_s * rate)
    lead = math.ceil(start / hop)
    speaks = np.zeros(max(lead + len(levels), math.ceil(length / hop)), bool)
    speaks[lead : lead + len(levels)] = levels > voice.active_dbfs - _MARGIN_DB
    gain_db = voice.lufs + settings.level_lu - bed.lufs
    dips = _dips(speaks, settings)
    return BedPlan(settings, voice, bed, gain_db, dips, start, length, speaks)


def _dips(speaks: NDArray[np.bool_], settings: BedSettings) -> NDArray[np.float64]:
    """Gain of the bed at each hop: down before words by the attack, kept over short pauses."""
    words = np.flatnonzero(speaks)
    short = np.diff(words) <= round(settings.hold_ms / 1000.0 / HOP_S)
    edges = np.zeros(len(speaks) + 1, np.int64)
    edges[words[:-1][short]] += 1
    edges[words[1:][short]] -= 1
    held = speaks | (np.cumsum(edges[:-1]) > 0)
    gain = np.where(held, -settings.dip_db, 0.0)
    # A straight slope down that arrives with the word, and one up after it.
    down, up = (
        settings.dip_db / max(1e-3, time_ms / 1000.0) * HOP_S * np.arange(len(gain))
        for time_ms in (settings.attack_ms, settings.release_ms)
    )
    gain = np.minimum.accumulate((gain + down)[::-1])[::-1] - down
    return np.asarray(np.minimum.accumulate(gain - up) + up)
