"""A recording as it is worked on: one channel of two where asked for, cuts left out."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from zesty_core.audio.channels import MonoSource
from zesty_core.audio.cuts import CutSource
from zesty_core.audio.reader import AudioFile
from zesty_core.errors import BadInput
from zesty_core.signal import Source, Span
from zesty_server.recordings.models import Recording

MOST_CUTS = 500
_LEAST_LEFT_S = 0.1


def open_audio(recording: Recording) -> AudioFile:
    """The recording's file as it came, called by its own name in errors."""
    return AudioFile(recording.path, recording.original_name)


def edited(file: AudioFile, cuts: Sequence[dict[str, float]], mono: str) -> Source:
    """What is played, processed and measured."""
    source: Source = file
    if mono and file.info.channels > 1:
        source = MonoSource(source, mono)
    if cuts:
        source = CutSource(source, [Span(cut["start_s"], cut["end_s"]) for cut in cuts])
    return source


def samples_left(length_samples: int, rate: int, cuts: Sequence[dict[str, float]]) -> int:
    """How many samples the cuts leave."""
    spans = [Span(cut["start_s"], cut["end_s"]).samples(rate) for cut in cuts]
    return length_samples - sum(min(stop, length_samples) - start for start, stop in spans)


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
