"""Bringing recordings in, measuring them, changing what is done with them."""

from __future__ import annotations

import hashlib
import os
import shutil
from collections.abc import Iterator, Sequence
from datetime import timedelta
from pathlib import Path, PurePosixPath
from typing import IO, Any

import numpy as np
from django.conf import settings
from django.db import transaction
from django.utils import timezone

from zesty_core.advice.intake import intake_advice
from zesty_core.audio.channels import MONO_CHOICES, better_channel
from zesty_core.chain import Progress
from zesty_core.dsp.denormals import flushing_to_zero
from zesty_core.errors import BadInput, Cancelled, Duplicate, UnreadableAudio, UnwritableAudio
from zesty_core.measure.overview import OverviewMaker
from zesty_core.measure.report import FullMeter
from zesty_core.signal import Block, Source
from zesty_server.jobs.models import Job, JobState
from zesty_server.jobs.services import Reporter, claim, request_cancel, work_on
from zesty_server.recipes.models import Recipe
from zesty_server.recipes.services import checked_steps
from zesty_server.recordings.edits import checked_cuts, edited, open_audio
from zesty_server.recordings.models import Recording

_CHUNK_BYTES = 1 << 20
_SPARE_BYTES = 50_000_000
#: Deleted recordings can be taken back for so long.
KEPT_DAYS = 30


def receive_recording(stream: IO[bytes], name: str, size_bytes: int) -> Recording:
    """Stream an upload to disk, check that it is sound, and queue its measuring.

    Raises
    ------
    BadInput
        No name, too large, ended early.
    UnreadableAudio
        Not a sound file we work on; nothing is kept.
    Duplicate
        The same bytes are here already; nothing is kept.
    UnwritableAudio
        The disk is full; nothing is kept.
    """
    from zesty_server.recordings.tasks import measure_recording

    name = display_name(name)
    _check_size(name, size_bytes)
    recording = Recording(
        name=Path(name).stem[:200] or name[:200], original_name=name[-255:], size_bytes=size_bytes
    )
    recording.folder.mkdir(parents=True)
    try:
        recording.sha256 = _store(stream, recording.path, name, size_bytes)
        _refuse_duplicate(recording)
        _read_header(recording)
        recording.save(force_insert=True)
    except BaseException:
        shutil.rmtree(recording.folder, ignore_errors=True)
        raise
    transaction.on_commit(lambda: measure_recording.enqueue(str(recording.pk)))
    return recording


def _refuse_duplicate(recording: Recording) -> None:
    known = Recording.objects.filter(sha256=recording.sha256, deleted_at=None).first()
    if known:
        raise Duplicate(recording.original_name, known.name)


def display_name(given: str) -> str:
    """Last part of a name that may look like a path, without control characters."""
    last = PurePosixPath(given.replace("\\", "/")).name
    name = "".join(c for c in last if c.isprintable()).strip()
    if name in ("", ".", ".."):
        raise BadInput("name: the file must have a name", path="name")
    return name


def _check_size(name: str, size_bytes: int) -> None:
    if size_bytes <= 0:
        raise UnreadableAudio(name, "is empty (0 bytes)")
    if size_bytes > settings.MAX_UPLOAD_BYTES:
        most = settings.MAX_UPLOAD_BYTES / 1e9
        raise BadInput(f"{name}: has {size_bytes / 1e9:.1f} GB; up to {most:.1f} GB are taken in")
    free = shutil.disk_usage(settings.MEDIA_ROOT).free
    if free < size_bytes + _SPARE_BYTES:
        raise UnwritableAudio(
            name, f"it needs {size_bytes / 1e6:.0f} MB and the disk has {free / 1e6:.0f} MB free"
        )


def _store(stream: IO[bytes], path: Path, name: str, size_bytes: int) -> str:
    """Write the stream; returns its SHA-256."""
    digest, left = hashlib.sha256(), size_bytes
    try:
        with path.open("xb") as file:
            while left > 0:
                chunk = stream.read(min(_CHUNK_BYTES, left))
                if not chunk:
                    raise UnreadableAudio(
                        name, f"the upload broke off with {left} of {size_bytes} bytes missing"
                    )
                file.write(chunk)
                digest.update(chunk)
                left -= len(chunk)
            file.flush()
            os.fsync(file.fileno())
    except OSError as fault:
        raise UnwritableAudio(name, f"the disk did not take it ({fault.strerror})") from None
    path.chmod(0o444)
    return digest.hexdigest()


def _read_header(recording: Recording) -> None:
    file = open_audio(recording)
    recording.container, recording.subtype = file.format.container, file.format.subtype
    recording.sample_rate_hz = file.info.sample_rate_hz
    recording.channels = file.info.channels
    recording.length_samples = file.info.length_samples


def measure(recording_id: str) -> None:
    """Measure a recording and draw its overview (background)."""
    job = claim(Recording, recording_id)
    if job is not None:
        work_on(job, _measure)


def _measure(job: Job, reporter: Reporter) -> dict[str, Any]:
    """One pass over the original for the waveform, and over what is left of it for the figures."""
    assert isinstance(job, Recording)
    file = open_audio(job)
    source = edited(file, job.cuts, job.mono)
    meter = FullMeter(source.info)
    with flushing_to_zero():
        if source is not file:
            for block in _watched(source, reporter):
                meter.push(block)
        if source is file or not job.overview_path.exists():
            overview = OverviewMaker(file.info.channels)
            for block in _watched(file, reporter):
                overview.push(block)
                if source is file:
                    meter.push(block)
            store_overview(job.overview_path, overview)
    measures = meter.finish()
    advice = [finding.as_json() for finding in intake_advice(measures)]
    return {"measures": measures.as_json(), "advice": advice}


def _watched(source: Source, reporter: Reporter) -> Iterator[Block]:
    """Blocks, with progress and the chance to stop."""
    done = 0
    for block in source.blocks():
        if reporter.cancelled():
            raise Cancelled
        yield block
        done += block.shape[1]
        reporter.progress(Progress(done / source.info.length_samples, "measuring"))


def store_overview(path: Path, overview: OverviewMaker) -> None:
    """Write the overview whole or not at all."""
    part = path.with_suffix(".part.npy")
    np.save(part, overview.finish())
    part.replace(path)


def describe_recording(recording: Recording, changes: dict[str, Any]) -> Recording:
    """Change title, label, group, take or notes."""
    if "name" in changes and not changes["name"].strip():
        raise BadInput("name: must not be empty", path="name")
    fields = [f for f in ("name", "label", "group", "take", "notes") if f in changes]
    for field in fields:
        value = changes[field]
        setattr(recording, field, value.strip() if isinstance(value, str) else value)
    recording.save(update_fields=fields)
    return recording


def set_chain(recording: Recording, steps: object) -> Recording:
    """Replace the chain; raises with the fault's path and keeps the old one when it is wrong."""
    recording.chain = checked_steps(steps)
    recording.save(update_fields=["chain"])
    return recording


@transaction.atomic
def set_edits(recording: Recording, cuts: Sequence[dict[str, Any]], mono: str) -> Recording:
    """Replace cuts and choice of channel, and queue measuring what is left.

    Raises :class:`BadInput` when a cut does not fit or nothing would be left.
    """
    from zesty_server.recordings.tasks import measure_recording

    if mono and mono not in MONO_CHOICES:
        raise BadInput(f"mono: must be one of {', '.join(MONO_CHOICES)}, got {mono!r}", path="mono")
    checked = checked_cuts(cuts, recording.duration_s or 0.0)
    if mono == "better":
        # Settled once, so that the choice is known and does not move with the cuts.
        mono = better_channel(open_audio(recording))
    ready = Recording.objects.filter(pk=recording.pk, state=JobState.DONE)
    if not ready.update(
        cuts=checked, mono=mono, state=JobState.WAITING, tries=0, progress=0.0, finished_at=None
    ):
        raise BadInput(f"{recording.name}: is being measured; try again in a moment")
    transaction.on_commit(lambda: measure_recording.enqueue(str(recording.pk)))
    recording.refresh_from_db()
    return recording


def apply_recipe(recording: Recording, recipe: Recipe) -> Recording:
    """Make the recipe's steps the recording's chain."""
    recording.chain = checked_steps(recipe.steps)
    recording.recipe, recording.recipe_version = recipe, recipe.version
    recording.save(update_fields=["chain", "recipe", "recipe_version"])
    return recording


def put_away(recording: Recording) -> None:
    """Delete a recording so that it can be taken back; what was put away long ago goes for good."""
    recording.deleted_at = timezone.now()
    recording.save(update_fields=["deleted_at"])
    for run in recording.runs.filter(state__in=(JobState.WAITING, JobState.RUNNING)):
        request_cancel(run)
    long_ago = timezone.now() - timedelta(days=KEPT_DAYS)
    for old in Recording.objects.filter(deleted_at__lt=long_ago):
        _remove(old)


def take_back(recording: Recording) -> Recording:
    """Undo :func:`put_away`; raises :class:`Duplicate` when the same file came in since."""
    _refuse_duplicate(recording)
    recording.deleted_at = None
    recording.save(update_fields=["deleted_at"])
    return recording


def _remove(recording: Recording) -> None:
    """Remove the row, then the files; a leftover folder is better than a row without its file."""
    folders = [recording.folder, *(run.folder for run in recording.runs.all())]
    recording.delete()
    for folder in folders:
        shutil.rmtree(folder, ignore_errors=True)
