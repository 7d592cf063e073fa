"""Bringing recordings in, measuring them, describing them, putting them away."""

from __future__ import annotations

import hashlib
import os
import shutil
import time
import uuid
from datetime import timedelta
from pathlib import Path
from typing import IO, Any

from django.conf import settings
from django.db import IntegrityError, transaction
from django.db.models import QuerySet
from django.utils import timezone

from zesty_core.advice.intake import intake_advice
from zesty_core.audio.decoded import COMPRESSED
from zesty_core.audio.decoded_file import read_head
from zesty_core.audio.edits import as_file_edits, edited
from zesty_core.audio.tag_reader import read_tags
from zesty_core.chain.runner import Progress
from zesty_core.foundation.errors import (
    BadInput,
    Cancelled,
    Duplicate,
    UnreadableAudio,
    UnwritableAudio,
)
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.measures.full_meter import FullMeter
from zesty_core.measures.overview import OverviewMaker
from zesty_core.measures.stream import metered
from zesty_core.runtime.denormals import flushing_to_zero
from zesty_core.runtime.pipeline import Pipeline
from zesty_server.http.file_names import display_name
from zesty_server.jobs.attempts import Attempt, Outcome, work_on
from zesty_server.jobs.models import Job, JobState
from zesty_server.jobs.services import claim, request_cancel
from zesty_server.preferences.selectors import preferences
from zesty_server.recordings.decoding import decoded_audio, remove_unfinished
from zesty_server.recordings.kept_measures import keep_measures, known_measures
from zesty_server.recordings.kept_overview import store_overview
from zesty_server.recordings.models import Recording
from zesty_server.recordings.queueing import ANEW, enqueue_measuring, measure_again
from zesty_server.recordings.room_tones import fill_tone_for, keep_sounds_of
from zesty_server.targets.models import Target

_CHUNK_BYTES = 1 << 20
_SPARE_BYTES = 50_000_000
_GROWING_EVERY_S = 0.7
#: Of the work on a compressed file, by trial.
_DECODING_SHARE = 0.7
#: Deleted recordings can be taken back for so long.
KEPT_DAYS = 30


def receive_recording(stream: IO[bytes], name: str, size_bytes: int) -> Recording:
    """Stream a file to disk in one go and take it in as :func:`take_in` does.

    Raises, besides, :class:`BadInput` for a bad name or size and :class:`UnwritableAudio` for a
    full disk.
    """
    name = display_name(name)
    check_size(name, size_bytes, size_bytes)
    part = Path(settings.MEDIA_ROOT) / "uploads" / f"{uuid.uuid4()}.part"
    part.parent.mkdir(parents=True, exist_ok=True)
    try:
        _store(stream, part, name, size_bytes)
        return take_in(part, name, size_bytes)
    finally:
        part.unlink(missing_ok=True)


def take_in(part: Path, name: str, size_bytes: int, sha256: str | None = None) -> Recording:
    """Make a recording of a file that has come in, move it to its place and queue its measuring.

    ``sha256`` is that of the file where it is known already.

    Only the header is looked at here: a compressed file is decoded when it is measured. A file that
    is here but could not be measured is measured again.

    Raises
    ------
    UnreadableAudio
        Not a sound file we work on; nothing is kept.
    Duplicate
        The same bytes are here already; nothing is kept.
    """
    recording = Recording(
        name=Path(name).stem[:200] or name[:200],
        original_name=name[-255:],
        size_bytes=size_bytes,
        sha256=sha256 or _digest(part),
    )
    failed = _same_file(recording).filter(state=JobState.FAILED).first()
    if failed and retry_measuring(failed):
        return failed
    _refuse_duplicate(recording)
    _begin_as_preferred(recording)
    recording.folder.mkdir(parents=True)
    try:
        part.replace(recording.path)
        recording.path.chmod(0o400)
        _read_header(recording)
        _read_tags(recording)
        with transaction.atomic():
            recording.save(force_insert=True)
    except BaseException as fault:
        shutil.rmtree(recording.folder, ignore_errors=True)
        if isinstance(fault, IntegrityError):
            raise _duplicate(recording) from None  # it came in meanwhile, by another request
        raise
    transaction.on_commit(lambda: enqueue_measuring(recording.pk))
    return recording


def retry_measuring(recording: Recording) -> bool:
    """Queue the measuring of a recording that failed; whether it had failed."""
    return measure_again(recording, JobState.FAILED, JobState.CANCELLED)


def _begin_as_preferred(recording: Recording) -> None:
    preferred = preferences()
    recording.target = preferred.target
    if preferred.recipe:
        recording.recipe, recording.chain = preferred.recipe, preferred.recipe.steps
        recording.recipe_version = preferred.recipe.version
        recording.run_when_measured = preferred.run_at_once


def _same_file(recording: Recording) -> QuerySet[Recording]:
    return Recording.objects.filter(sha256=recording.sha256, deleted_at=None)


def _refuse_duplicate(recording: Recording) -> None:
    if _same_file(recording).exists():
        raise _duplicate(recording)


def _duplicate(recording: Recording) -> Duplicate:
    known = _same_file(recording).first()
    return Duplicate(recording.original_name, (known or recording).name)


def check_size(name: str, size_bytes: int, missing_bytes: int) -> None:
    """Raise when a file is empty, too large, or what is still missing does not fit on the disk."""
    if size_bytes <= 0:
        raise UnreadableAudio(name, "is empty (0 bytes)")
    if size_bytes > settings.MAX_UPLOAD_BYTES:
        most = settings.MAX_UPLOAD_BYTES / 1e9
        raise BadInput(f"{name}: has {size_bytes / 1e9:.1f} GB; up to {most:.1f} GB are taken in")
    free = shutil.disk_usage(settings.MEDIA_ROOT).free
    if free < missing_bytes + _SPARE_BYTES:
        raise UnwritableAudio(
            name, f"it needs {missing_bytes / 1e6:.0f} MB and the disk has {free / 1e6:.0f} MB free"
        )


def _store(stream: IO[bytes], path: Path, name: str, size_bytes: int) -> None:
    left = size_bytes
    try:
        with path.open("xb") as file:
            while left > 0:
                chunk = stream.read(min(_CHUNK_BYTES, left))
                if not chunk:
                    raise UnreadableAudio(
                        name, f"the upload broke off with {left} of {size_bytes} bytes missing"
                    )
                file.write(chunk)
                left -= len(chunk)
            file.flush()
            os.fsync(file.fileno())
    except OSError as fault:
        raise UnwritableAudio(name, f"the disk did not take it ({fault.strerror})") from None


def _digest(path: Path) -> str:
    """SHA-256 of a file."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _read_header(recording: Recording) -> None:
    head = read_head(recording.path, recording.original_name)
    recording.container, recording.subtype = head.format.container, head.format.subtype
    recording.sample_rate_hz = head.info.sample_rate_hz
    recording.channels = head.info.channels
    recording.length_samples = head.info.length_samples


def _read_tags(recording: Recording) -> None:
    """Keep what the file says of itself; its title is the recording's name."""
    recording.tags, cover = read_tags(recording.path)
    recording.name = recording.tags.get("title", recording.name)[:200]
    if cover:
        recording.cover_path.write_bytes(cover.data)


def measure(recording_id: str) -> None:
    """Measure a recording and draw its overview (background)."""
    job = claim(Recording, recording_id)
    if job is None:
        return
    assert isinstance(job, Recording)
    begun_with = as_file_edits(job)

    def finish(now: Job) -> dict[str, Any]:
        """What was edited meanwhile is measured again."""
        assert isinstance(now, Recording)
        if as_file_edits(now) == begun_with:
            return {}
        transaction.on_commit(lambda: enqueue_measuring(recording_id))
        return ANEW

    if work_on(job, _measure, finish) is Outcome.DONE:
        remove_unfinished(job)


def _measure(job: Recording, attempt: Attempt) -> dict[str, Any]:
    """One pass over the original for the waveform, and over what is left of it for the figures."""
    decodes = job.container in COMPRESSED and not job.decoded_path.exists()
    share = _Share(attempt, _DECODING_SHARE if decodes else 0.0)
    file = decoded_audio(job, attempt, share.first)
    length = {"length_samples": file.info.length_samples}
    job.length_samples = file.info.length_samples
    if job.measures and job.overview_path.exists() and known_measures(job, job):
        return length  # only its decoded file was missing
    source = edited(file, job, fill_tone_for(job))
    meter = FullMeter(source.info)
    if source is not file:
        _run(metered(source.blocks(), meter), source.info, share)
    if source is file or not job.overview_path.exists():
        overview = OverviewMaker(file.info.channels)
        growing = _Growing(job.growing_overview_path, overview, file.info.length_samples)
        line = metered(file.blocks(), meter) if source is file else Pipeline(file.blocks())
        line.past(overview.push)
        line.past(growing.tell)
        _run(line, file.info, share)
        if not attempt.is_current():
            raise Cancelled
        store_overview(job.overview_path, overview.finish())
        job.growing_overview_path.unlink(missing_ok=True)
    # As a run would take them: the same to the last bit.
    with flushing_to_zero():
        measures = meter.finish()
    if not attempt.is_current():
        raise Cancelled
    keep_measures(job, job, measures)
    advice = [finding.as_json() for finding in intake_advice(measures)]
    return length | {"measures": measures.as_json(), "advice": advice}


class _Share:
    """Progress of two parts, decoding and measuring, as one."""

    def __init__(self, attempt: Attempt, first: float) -> None:
        self._attempt, self._first = attempt, first
        self.cancelled = attempt.cancelled

    def first(self, progress: Progress) -> None:
        """Progress of the first part."""
        self._attempt.progress(Progress(self._first * progress.share, progress.doing))

    def second(self, progress: Progress) -> None:
        """Progress of the second part."""
        share = self._first + (1.0 - self._first) * progress.share
        self._attempt.progress(Progress(share, progress.doing))


def _run(line: Pipeline, info: SignalInfo, share: _Share) -> None:
    """A pass, with progress and the chance to stop."""

    def watch(done_samples: int) -> None:
        if share.cancelled():
            raise Cancelled
        share.second(Progress(done_samples / info.length_samples, "measuring"))

    line.run(watch)


class _Growing:
    """Stores what is known of a waveform now and then, so that it can be watched."""

    def __init__(self, path: Path, overview: OverviewMaker, length_samples: int) -> None:
        self._path, self._overview, self._length = path, overview, length_samples
        self._told = time.monotonic()

    def tell(self, _block: Block) -> None:
        """Store it when the last time is long enough ago."""
        if time.monotonic() - self._told >= _GROWING_EVERY_S:
            store_overview(self._path, self._overview.so_far(self._length))
            self._told = time.monotonic()


def describe_recording(recording: Recording, changes: dict[str, Any]) -> Recording:
    """Change title, label, group, take, notes, or which findings are dismissed."""
    if "name" in changes and not changes["name"].strip():
        raise BadInput("name: must not be empty", path="name")
    fields = [f for f in ("name", "label", "group", "take", "notes", "dismissed") if f in changes]
    for field in fields:
        value = changes[field]
        setattr(recording, field, value.strip() if isinstance(value, str) else value)
    recording.save(update_fields=fields)
    return recording


def set_target(recording: Recording, target: Target | None) -> Recording:
    """Choose what its delivery must meet; None for nothing."""
    recording.target = target
    recording.save(update_fields=["target"])
    return recording


def put_away(recording: Recording) -> None:
    """Delete a recording so that it can be taken back; what was put away long ago goes for good."""
    recording.deleted_at = timezone.now()
    recording.save(update_fields=["deleted_at"])
    for run in recording.runs.filter(state__in=(JobState.WAITING, JobState.RUNNING)):
        request_cancel(run)
    long_ago = timezone.now() - timedelta(days=KEPT_DAYS)
    for old in Recording.objects.filter(deleted_at__lt=long_ago):
        remove_for_good(old)


def take_back(recording: Recording) -> Recording:
    """Undo :func:`put_away`; raises :class:`Duplicate` when the same file came in since."""
    _refuse_duplicate(recording)
    recording.deleted_at = None
    try:
        with transaction.atomic():
            recording.save(update_fields=["deleted_at"])
    except IntegrityError:
        raise _duplicate(recording) from None
    return recording


def remove_for_good(recording: Recording) -> None:
    """Remove the row, then the files; a leftover folder is better than a row without its file.

    Room tones learned from it stay.
    """
    keep_sounds_of(recording)
    folders = [recording.folder, *(run.home for run in recording.runs.all())]
    recording.delete()
    for folder in folders:
        shutil.rmtree(folder, ignore_errors=True)
