"""Hearing a result over a bed."""

from __future__ import annotations

import json
import struct
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from zesty_core.audio.channels import spread
from zesty_core.audio.reader import AudioFile
from zesty_core.bed.distance import distance_of
from zesty_core.bed.mix import mixed
from zesty_core.bed.plan import BedPlan, HeldBed, MeasuredVoice, hold_bed, measure_voice, plan_bed
from zesty_core.bed.settings import BedSettings
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.signal import Source, Span
from zesty_server.beds.models import Bed
from zesty_server.beds.services import bed_file
from zesty_server.runs.models import Run

_LONGEST_STRETCH_S = 60.0


@dataclass(frozen=True)
class Laid:
    """A result over a bed."""

    voice: Source
    plan: BedPlan


def laid(run: Run, bed: Bed, params: object) -> Laid:
    """Settle how the bed lies under the result; raises :class:`BadInput` when it cannot."""
    chosen: BedSettings = BedSettings.from_params(params)
    voice = voice_over(run, bed_file(bed))
    rate, channels = voice.info.sample_rate_hz, voice.info.channels
    held = _held(bed.path, bed.original_name, rate, channels)
    measured = _measured(run.result_path, run.result_name, channels)
    return Laid(voice, plan_bed(measured, held, chosen))


def voice_over(run: Run, music: AudioFile, channels: int | None = None) -> Source:
    """The result; on both channels where the music has two, unless ``channels`` asks for one."""
    return _in_channels(run.result_path, run.result_name, channels or music.info.channels)


def _in_channels(path: Path, name: str, channels: int) -> Source:
    return spread(AudioFile(path, name), channels)


@lru_cache(maxsize=8)
def _measured(path: Path, name: str, channels: int) -> MeasuredVoice:
    """Settings are turned over one result many times; results and beds never change."""
    return measure_voice(_in_channels(path, name, channels))


@lru_cache(maxsize=1)
def _held(path: Path, name: str, sample_rate_hz: int, channels: int) -> HeldBed:
    return hold_bed(AudioFile(path, name), sample_rate_hz, channels)


def stretch_parts(one: Laid, span: Span) -> Iterator[bytes]:
    """JSON, then a stretch of the voice alone and of the mix; parts as of passages."""
    rate = one.voice.info.sample_rate_hz
    Span.checked(span.start_s, span.end_s, "passage", one.plan.length_samples / rate)
    if span.duration_s > _LONGEST_STRETCH_S:
        raise BadInput(f"passage: must last at most {_LONGEST_STRETCH_S:g} s", path="end_s")
    start, stop = span.samples(rate)
    own, bed = mixed(one.voice, one.plan, start, stop)
    head = {
        "sample_rate_hz": rate,
        "channels": one.voice.info.channels,
        "duration_s": one.plan.length_samples / rate,
        **distance_of(one.plan),
    }
    return iter(
        [_part(json.dumps(head).encode()), _part(own.tobytes()), _part((own + bed).tobytes())]
    )


def _part(data: bytes) -> bytes:
    return struct.pack("<I", len(data)) + data
