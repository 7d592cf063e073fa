"""How much room everything takes."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from django.conf import settings
from django.db.models import OuterRef, Q, QuerySet, Subquery

from zesty_server.beds.models import Bed
from zesty_server.jobs.models import JobState
from zesty_server.recordings.models import Recording
from zesty_server.recordings.selectors import put_away_recordings, recordings_alone
from zesty_server.runs.models import Run
from zesty_server.uploads.models import Upload


@dataclass(frozen=True)
class Taken:
    """What one kind of things takes."""

    kind: str
    count: int
    size_bytes: int


@dataclass(frozen=True)
class Space:
    """All kinds, and what the disk has left."""

    free_bytes: int
    kinds: tuple[Taken, ...]


def earlier_results() -> QuerySet[Run]:
    """Results that only serve looking back: a later one is there, and nothing was delivered or
    mixed from them."""
    newest = Run.objects.filter(
        recording=OuterRef("recording"), batch=None, state=JobState.DONE
    ).order_by("-created_at")
    return (
        Run.objects.filter(recording__deleted_at=None, batch=None, state=JobState.DONE)
        .filter(delivery=None, mixes=None)
        .exclude(pk=Subquery(newest.values("pk")[:1]))
    )


def space() -> Space:
    """What lies on the disk, by what it is."""
    there = Run.objects.filter(recording__deleted_at=None)
    delivered = ~Q(delivery=None) | ~Q(mixes=None) | ~Q(batch=None)
    earlier = earlier_results()
    away = put_away_recordings()
    kinds = (
        _taken("recordings", (r.folder for r in recordings_alone()), besides=Recording.DECODED),
        _taken("decoded", (r.decoded_path for r in recordings_alone())),
        _taken(
            "results",
            (r.home for r in there.exclude(delivered).exclude(pk__in=earlier.values("pk"))),
        ),
        _taken("earlier_results", (r.home for r in earlier)),
        _taken("deliveries", (r.home for r in there.filter(delivered).distinct())),
        _taken("beds", (bed.path for bed in Bed.objects.all())),
        _with_runs("put_away", away),
        _taken("unfinished", (upload.path for upload in Upload.objects.all())),
    )
    folder = Path(settings.DATA)
    return Space(shutil.disk_usage(folder).free, kinds)


def size_of(recording: Recording) -> int:
    """Bytes of a recording with all that was made of it."""
    return sum(_size(folder) for folder in _folders(recording))


def _folders(recording: Recording) -> list[Path]:
    return [recording.folder, *(run.home for run in recording.runs.all())]


def _with_runs(kind: str, found: QuerySet[Recording]) -> Taken:
    sizes = [size_of(recording) for recording in found.prefetch_related("runs")]
    return Taken(kind, len(sizes), sum(sizes))


def _taken(kind: str, paths: Iterable[Path], besides: str = "") -> Taken:
    """Sizes of what is there; a run that failed has left nothing."""
    sizes = [size for path in paths if (size := _size(path, besides))]
    return Taken(kind, len(sizes), sum(sizes))


def _size(path: Path, besides: str = "") -> int:
    """Bytes of a file, or of all files under a folder but one of that name.

    What vanishes meanwhile counts nothing.
    """
    try:
        if not path.is_dir():
            return path.stat().st_size
        with os.scandir(path) as entries:
            return sum(_size(Path(entry.path)) for entry in entries if entry.name != besides)
    except FileNotFoundError:
        return 0
