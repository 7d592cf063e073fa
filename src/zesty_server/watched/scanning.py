"""Scans watched folders; runs every few seconds in the process that supervises the workers.

A file is ready once two scans in a row find it with the same size and time. Scanning only stores these
and queues one task per folder that has something to do.
"""

from __future__ import annotations

from pathlib import Path

from django.conf import settings

from zesty_core.audio.endings import looks_like_sound
from zesty_server.jobs.models import OPEN_STATES, JobState
from zesty_server.jobs.waiting import DEFAULT, queue_job
from zesty_server.watched.models import FileState, WatchedFile, WatchedFolder

_OPEN = (FileState.MEASURING, FileState.RUNNING)
Sizes = dict[str, list[int]]


def scan_folders() -> None:
    """Scan every folder that is not paused; queue a pass over those that need one."""
    idle = WatchedFolder.objects.filter(paused=False).exclude(state__in=OPEN_STATES)
    for watched in idle:
        try:
            found = files_in(watched.path)
        except OSError as fault:
            _store_scan(watched, f"{watched.folder}: {fault.strerror}", watched.pending_sizes)
            continue
        imported = imported_files(watched)
        fresh = {name: size for name, size in found.items() if (name, *size) not in imported}
        settled = [name for name, size in fresh.items() if watched.pending_sizes.get(name) == size]
        _store_scan(watched, "", fresh)
        if settled or watched.files.filter(state__in=_OPEN).exists():
            enqueue(watched)


def files_in(folder: Path) -> Sizes:
    """Size and time of the sound files directly in a folder, by name."""
    sizes: Sizes = {}
    for path in sorted(folder.iterdir()):
        # A link could point outside the folders that account holders may use.
        is_foreign = settings.ACCOUNTS and path.is_symlink()
        if looks_like_sound(path) and path.is_file() and not is_foreign:
            state = path.stat()
            sizes[path.name] = [state.st_size, state.st_mtime_ns]
    return sizes


def imported_files(watched: WatchedFolder) -> set[tuple[str, int, int]]:
    """Name, size and time of every file that was imported."""
    rows = WatchedFile.objects.filter(watched=watched)
    return set(rows.values_list("name", "size_bytes", "mtime_ns"))


def _store_scan(watched: WatchedFolder, problem: str, pending_sizes: Sizes) -> None:
    if (watched.problem, watched.pending_sizes) != (problem, pending_sizes):
        WatchedFolder.objects.filter(pk=watched.pk).update(
            problem=problem[:300], pending_sizes=pending_sizes
        )


def enqueue(watched: WatchedFolder) -> None:
    """Queue a pass over a folder, unless one is queued or running."""
    idle = WatchedFolder.objects.filter(pk=watched.pk).exclude(state__in=OPEN_STATES)
    if idle.update(state=JobState.WAITING, tries=0, task_id="", try_token=None):
        enqueue_folder(watched.pk)


def enqueue_folder(folder_id: object) -> None:
    """Put a waiting pass into the queue now."""
    from zesty_server.watched.tasks import work_on_folder

    queue_job(WatchedFolder, folder_id, DEFAULT, work_on_folder)
