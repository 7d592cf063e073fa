"""A recording as it is worked on: one channel of two where asked for, cuts left out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass, field
from typing import Any, Protocol

import numpy as np

from zesty_core.audio.channels import MonoSource
from zesty_core.audio.cuts import CutSource
from zesty_core.audio.padding import PaddedSource, room_fill
from zesty_core.audio.resample import resampled
from zesty_core.errors import BadInput
from zesty_core.room_tone import RoomTone
from zesty_core.signal import Block, SignalInfo, Source, Span
from zesty_core.units import seconds_to_samples

MOST_CUTS = 500
_LEAST_LEFT_S = 0.1


class Edits(Protocol):
    """What is done to a recording before its chain; cuts in seconds of the original."""

    @property
    def cuts(self) -> Any:
        """Spans left out: start_s and end_s."""

    @property
    def mono(self) -> str:
        """Choice of channel; empty leaves both."""

    @property
    def pad_start_s(self) -> float:
        """Room tone before what is left."""

    @property
    def pad_end_s(self) -> float:
        """Room tone after it."""


@dataclass(frozen=True)
class FileEdits:
    """Edits of a file that is in no library."""

    cuts: list[dict[str, float]] = field(default_factory=list)
    mono: str = ""
    pad_start_s: float = 0.0
    pad_end_s: float = 0.0

    def as_json(self) -> dict[str, Any]:
        """JSON object."""
        return asdict(self)


def one_side(file: Source, mono: str) -> Source:
    """The file, or one channel made of its two."""
    return MonoSource(file, mono) if mono and file.info.channels > 1 else file


def edited(file: Source, edits: Edits, tone: RoomTone | None) -> Source:
    """What is played, processed and measured; ``tone`` fills what is added at head and tail.

    Without a tone (it was deleted since) the head and tail are silent.
    """
    source = one_side(file, edits.mono)
    if edits.cuts:
        source = CutSource(source, [Span(cut["start_s"], cut["end_s"]) for cut in edits.cuts])
    if edits.pad_start_s or edits.pad_end_s:
        rate = source.info.sample_rate_hz
        before = _fill(tone, source.info, seconds_to_samples(edits.pad_start_s, rate))
        after = _fill(tone, source.info, seconds_to_samples(edits.pad_end_s, rate))
        source = PaddedSource(source, before, after)
    return source


def _fill(tone: RoomTone | None, info: SignalInfo, samples: int) -> Block:
    if tone is None or tone.samples is None or samples == 0:
        return np.zeros((info.channels, samples), np.float32)
    sound = tone.samples
    if tone.sample_rate_hz != info.sample_rate_hz:
        sound = resampled(sound, tone.sample_rate_hz, info.sample_rate_hz)
    if len(sound) != info.channels:
        sound = np.repeat(sound.mean(axis=0, keepdims=True), info.channels, axis=0)
    return room_fill(sound.astype(np.float32), info.sample_rate_hz, samples)


def samples_left(length_samples: int, rate: int, edits: Edits) -> int:
    """How many samples the edits leave."""
    spans = [Span(cut["start_s"], cut["end_s"]).samples(rate) for cut in edits.cuts]
    added = sum(seconds_to_samples(t, rate) for t in (edits.pad_start_s, edits.pad_end_s))
    return added + length_samples - sum(min(stop, length_samples) - start for start, stop in spans)


def checked_cuts(cuts: Sequence[dict[str, Any]], duration_s: float) -> list[dict[str, float]]:
    """Cuts in order, those that touch as one.

    Raises :class:`BadInput` when one lies outside the recording or too little is left.
    """
    if len(cuts) > MOST_CUTS:
        raise BadInput(f"cuts: must be at most {MOST_CUTS}, got {len(cuts)}", path="cuts")
    merged: list[dict[str, float]] = []
    for cut in sorted(cuts, key=lambda c: float(c["start_s"])):
        start, end = float(cut["start_s"]), min(float(cut["end_s"]), duration_s)
        Span.checked(start, end, "cut", duration_s)
        if merged and start <= merged[-1]["end_s"]:
            merged[-1]["end_s"] = max(merged[-1]["end_s"], end)
        else:
            merged.append({"start_s": start, "end_s": end})
    left_s = duration_s - sum(cut["end_s"] - cut["start_s"] for cut in merged)
    if left_s < _LEAST_LEFT_S:
        raise BadInput("cuts: they would leave nothing of the recording", path="cuts")
    return merged
