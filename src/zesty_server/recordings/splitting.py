"""Splits a recording at its markers."""

from __future__ import annotations

import shutil
import uuid
from pathlib import Path

from django.conf import settings

from zesty_core.audio.edits import edit_times
from zesty_core.audio.markers import Chapter, chapters_of
from zesty_core.audio.writer import AudioWriter, depth_for
from zesty_core.delivery.receipt import sha256_of
from zesty_core.foundation.errors import BadInput, Duplicate
from zesty_core.foundation.signal import BLOCK_SAMPLES, Source
from zesty_core.foundation.units import seconds_to_samples
from zesty_server.recordings.edited_source import source_of
from zesty_server.recordings.edits import open_audio
from zesty_server.recordings.models import Recording
from zesty_server.recordings.room_tones import use_room_tone
from zesty_server.recordings.services import check_size, take_in

_BYTES_PER_SAMPLE = 4


def edited_chapters(recording: Recording) -> list[Chapter]:
    """Chapters of the edited recording."""
    edited_s = source_of(recording).info.duration_s
    beginning = f"{recording.name}, beginning"
    return chapters_of(recording.markers, edit_times(recording), edited_s, beginning)


def split_at_markers(recording: Recording) -> list[Recording]:
    """Create a recording per chapter, with edits applied and the same chain, target and room tone.

    The recording itself does not change. A chapter that exists from an earlier split is reused.

    Raises :class:`BadInput` without a marker that makes two chapters, and
    :class:`~zesty_core.foundation.errors.UnwritableAudio` for a full disk; nothing is left behind then.
    """
    chapters = edited_chapters(recording)
    if len(chapters) < 2:
        raise BadInput(
            f"{recording.name}: has no marker to split at; set one first", path="markers"
        )
    source = source_of(recording)
    info = source.info
    check_size(recording.name, 1, info.length_samples * info.channels * _BYTES_PER_SAMPLE)
    subtype = depth_for(open_audio(recording).format, "WAV")
    folder = Path(settings.MEDIA_ROOT) / "uploads" / f"split-{uuid.uuid4()}"
    folder.mkdir(parents=True)
    try:
        parts = [folder / f"{number}.wav" for number in range(len(chapters))]
        for chapter, part in zip(chapters, parts, strict=True):
            _write(source, chapter, part, subtype)
        return [
            _taken_in(recording, chapter, part)
            for chapter, part in zip(chapters, parts, strict=True)
        ]
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _write(source: Source, chapter: Chapter, path: Path, subtype: str) -> None:
    rate = source.info.sample_rate_hz
    at, stop = (seconds_to_samples(t, rate) for t in (chapter.start_s, chapter.end_s))
    with AudioWriter(
        path, rate, source.info.channels, subtype, dither=False, length_samples=stop - at
    ) as file:
        while at < stop:
            block = source.read(at, min(stop, at + BLOCK_SAMPLES))
            file.write(block)
            at += block.shape[1]


def _taken_in(recording: Recording, chapter: Chapter, part: Path) -> Recording:
    name = "".join(c for c in chapter.name if c not in "/\\").strip() or recording.name
    sha256 = sha256_of(part)
    try:
        made = take_in(part, f"{name}.wav", part.stat().st_size, sha256)
    except Duplicate:
        return Recording.objects.get(sha256=sha256, deleted_at=None)
    made.name = chapter.name
    made.group, made.label = recording.group or recording.name, recording.label
    made.chain, made.recipe = recording.chain, recording.recipe
    made.recipe_version, made.target = recording.recipe_version, recording.target
    made.run_when_measured = False
    made.save()
    use_room_tone(made, recording.room_tone)
    return made
