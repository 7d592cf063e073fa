"""Taking, holding and ending background work. All changes are single conditional updates."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.db.models import F, Q, QuerySet
from django.utils import timezone

from zesty_core.chain import Progress
from zesty_core.errors import Cancelled, ZestyError
from zesty_server.jobs.models import MOST_TRIES, Job, JobState
from zesty_server.jobs.waiting import anything_queued

_log = logging.getLogger(__name__)
LEASE_S = float(settings.LEASE_S)
_TELL_EVERY_S = 0.25


def claim(job_type: type[Job], job_id: Any) -> Job | None:
    """Take waiting or abandoned work; None when somebody else has it or it has ended."""
    now = timezone.now()
    free = Q(state=JobState.WAITING) | Q(state=JobState.RUNNING, lease_until__lt=now)
    taken = job_type._default_manager.filter(free, pk=job_id, tries__lt=MOST_TRIES).update(
        state=JobState.RUNNING,
        tries=F("tries") + 1,
        started_at=now,
        progress=0.0,
        doing="",
        lease_until=now + timedelta(seconds=LEASE_S),
    )
    return job_type._default_manager.get(pk=job_id) if taken else None


class Reporter:
    """Writes progress and renews the lease, a few times a second; knows when to stop."""

    def __init__(self, job: Job) -> None:
        self._rows = type(job)._default_manager.filter(pk=job.pk, state=JobState.RUNNING)
        self._last = 0.0
        self._stop = False

    def progress(self, progress: Progress) -> None:
        """Tell how far the work is."""
        now = time.monotonic()
        if now - self._last < _TELL_EVERY_S:
            return
        self._last = now
        alive = self._rows.update(
            progress=progress.share,
            doing=progress.doing[:200],
            lease_until=timezone.now() + timedelta(seconds=LEASE_S),
        )
        # No row: it was deleted or ended elsewhere, so the work is for nobody.
        self._stop = not alive or self._rows.filter(cancel_requested=True).exists()

    def cancelled(self) -> bool:
        """Whether the user asked to stop."""
        return self._stop


def work_on(job: Job, work: Callable[[Job, Reporter], dict[str, Any]]) -> None:
    """Do the work and keep what it returns as fields; errors end up on the row, in one line."""
    try:
        fields = work(job, Reporter(job))
    except Cancelled:
        _end(job, state=JobState.CANCELLED)
    except ZestyError as error:
        _end(job, state=JobState.FAILED, error_code=error.code, error=error.message)
    except Exception:
        _log.exception("work on %s failed", job.pk)
        message = "Something went wrong in the server; the recording is safe. Try it again."
        _end(job, state=JobState.FAILED, error_code="failed", error=message)
    else:
        _end(job, state=JobState.DONE, progress=1.0, error="", error_code="", **fields)


def _end(job: Job, **fields: Any) -> None:
    rows = type(job)._default_manager.filter(pk=job.pk)
    rows.update(finished_at=timezone.now(), lease_until=None, doing="", **fields)


def request_cancel(job: Job) -> None:
    """Ask running work to stop; waiting work ends at once."""
    rows = type(job)._default_manager.filter(pk=job.pk)
    if not rows.filter(state=JobState.WAITING).update(
        state=JobState.CANCELLED, finished_at=timezone.now()
    ):
        rows.filter(state=JobState.RUNNING).update(cancel_requested=True)


def take_up_abandoned(job_type: type[Job], enqueue: Callable[[Any], Any]) -> int:
    """Queue work again whose lease has run out; end it when it was tried too often."""
    rows = job_type._default_manager.filter(state=JobState.RUNNING, lease_until__lt=timezone.now())
    rows.filter(tries__gte=MOST_TRIES).update(
        state=JobState.FAILED,
        error_code="failed",
        finished_at=timezone.now(),
        lease_until=None,
        error=f"Stopped {MOST_TRIES} times before it was done. Try it again.",
    )
    lost = list(rows.filter(tries__lt=MOST_TRIES).values_list("pk", flat=True))
    for pk in lost:
        enqueue(pk)
    return len(lost)


def take_up_forgotten(waiting: QuerySet[Any], enqueue: Callable[[Any], Any]) -> int:
    """Queue waiting work again whose task was lost: taken by a worker that died before it began.

    That can only be told when nothing is queued any more.
    """
    if anything_queued():
        return 0
    long_ago = timezone.now() - timedelta(seconds=LEASE_S)
    lost = list(
        waiting.filter(state=JobState.WAITING, created_at__lt=long_ago).values_list("pk", flat=True)
    )
    for pk in lost:
        enqueue(pk)
    return len(lost)
