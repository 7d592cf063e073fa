"""Putting recordings into the queue to be measured."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from zesty_server.jobs.models import JobState
from zesty_server.jobs.waiting import MEASURING, queue_job
from zesty_server.recordings.models import Recording

#: What a row takes on to be measured again.
ANEW: dict[str, Any] = {
    "state": JobState.WAITING,
    "tries": 0,
    "progress": 0.0,
    "finished_at": None,
    "error": "",
    "error_code": "",
    "task_id": "",
}


def enqueue_measuring(recording_id: Any) -> None:
    """Put it into the queue now."""
    from zesty_server.recordings.tasks import measure_recording

    queue_job(Recording, recording_id, MEASURING, measure_recording)


def measure_again(recording: Recording, *states: JobState) -> bool:
    """Queue a recording's measuring when it is in one of these states; whether it was."""
    ended = Recording.objects.filter(pk=recording.pk, state__in=states)
    if not ended.update(**ANEW):
        return False
    transaction.on_commit(lambda: enqueue_measuring(recording.pk))
    return True
