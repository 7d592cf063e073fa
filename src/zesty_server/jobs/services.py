"""Taking and cancelling background work. All changes are single conditional updates."""

from __future__ import annotations

import uuid
from typing import Any

from django.db.models import F
from django.utils import timezone

from zesty_server.jobs.models import MOST_TRIES, Job, JobState


def claim(job_type: type[Job], job_id: Any) -> Job | None:
    """Take waiting work, under a new token; None when somebody else has it or it has ended."""
    token = uuid.uuid4()
    taken = job_type._default_manager.filter(
        pk=job_id, state=JobState.WAITING, tries__lt=MOST_TRIES
    ).update(
        state=JobState.RUNNING,
        tries=F("tries") + 1,
        try_token=token,
        heartbeat=0,
        started_at=timezone.now(),
        progress=0.0,
        doing="",
    )
    if not taken:
        return None
    return job_type._default_manager.filter(pk=job_id, try_token=token).first()


def request_cancel(job: Job) -> None:
    """Ask running work to stop; waiting work ends at once."""
    rows = type(job)._default_manager.filter(pk=job.pk)
    if not rows.filter(state=JobState.WAITING).update(
        state=JobState.CANCELLED, finished_at=timezone.now()
    ):
        rows.filter(state=JobState.RUNNING).update(cancel_requested=True)
