"""Looking into watched folders, now and then, by the process that looks after the workers.

Looking is cheap and changes nothing but what was seen: a file counts as come in once two looks in turn
find it with the same size and time. What there is to do is put into the queue, one task for a folder.
"""

from __future__ import annotations

from pathlib import Path

from django.conf import settings

from zesty_core.audio.endings import looks_like_sound
from zesty_server.jobs.models import OPEN_STATES, JobState
from zesty_server.jobs.waiting import DEFAULT, queue_job
from zesty_server.watched.models import FileState, WatchedFile, WatchedFolder

_OPEN = (FileState.MEASURING, FileState.RUNNING)
Seen = dict[str, list[int]]


def look_at_folders() -> None:
    """Look into every folder that is not paused, and queue work on those that need it."""
    idle = WatchedFolder.objects.filter(paused=False).exclude(state__in=OPEN_STATES)
    for watched in idle:
        try:
            there = files_in(watched.path)
        except OSError as fault:
            _note(watched, f"{watched.folder}: {fault.strerror}", watched.sizes_seen)
            continue
        known = known_files(watched)
        fresh = {name: seen for name, seen in there.items() if (name, *seen) not in known}
        settled = [name for name, seen in fresh.items() if watched.sizes_seen.get(name) == seen]
        _note(watched, "", fresh)
        if settled or watched.files.filter(state__in=_OPEN).exists():
            enqueue(watched)


def files_in(folder: Path) -> Seen:
    """Size and time of the sound files in a folder, by name; those of its own folders are not."""
    found: Seen = {}
    for path in sorted(folder.iterdir()):
        # A link could lead somebody who signs in to what is not open to them.
        leads_away = settings.ACCOUNTS and path.is_symlink()
        if looks_like_sound(path) and path.is_file() and not leads_away:
            state = path.stat()
            found[path.name] = [state.st_size, state.st_mtime_ns]
    return found


def known_files(watched: WatchedFolder) -> set[tuple[str, int, int]]:
    """Name, size and time of every file that was taken in."""
    rows = WatchedFile.objects.filter(watched=watched)
    return set(rows.values_list("name", "size_bytes", "mtime_ns"))


def _note(watched: WatchedFolder, trouble: str, sizes_seen: Seen) -> None:
    if (watched.trouble, watched.sizes_seen) != (trouble, sizes_seen):
        WatchedFolder.objects.filter(pk=watched.pk).update(
            trouble=trouble[:300], sizes_seen=sizes_seen
        )


def enqueue(watched: WatchedFolder) -> None:
    """Queue work on a folder, unless some is on its way."""
    idle = WatchedFolder.objects.filter(pk=watched.pk).exclude(state__in=OPEN_STATES)
    if idle.update(state=JobState.WAITING, tries=0, task_id="", try_token=None):
        enqueue_folder(watched.pk)


def enqueue_folder(folder_id: object) -> None:
    """Put the work on a folder, which waits, into the queue now."""
    from zesty_server.watched.tasks import work_on_folder

    queue_job(WatchedFolder, folder_id, DEFAULT, work_on_folder)
