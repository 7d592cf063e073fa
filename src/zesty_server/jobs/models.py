"""State that every piece of background work carries on its own row.

A queue loses a task whose worker is killed; the row does not. Each try holds the row by a token of its
own and counts a heartbeat up while it is alive. A row whose heartbeat stands still for a lease is taken
from its try (:mod:`zesty_server.jobs.watch`) and queued again, at most ``MOST_TRIES`` times. A try that
comes back after that finds another token on the row and changes nothing.
"""

from __future__ import annotations

import uuid
from typing import ClassVar

from django.db import models

MOST_TRIES = 3


class JobState(models.TextChoices):
    """Where the work stands."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


#: States of work that has not ended.
OPEN_STATES = (JobState.WAITING, JobState.RUNNING)


class Job(models.Model):
    """Abstract row of background work."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    state = models.CharField(max_length=12, choices=JobState.choices, default=JobState.WAITING)
    progress = models.FloatField(default=0.0, help_text="Share done, 0 to 1.")
    doing = models.CharField(max_length=200, blank=True, help_text="What it is at.")
    error_code = models.CharField(max_length=40, blank=True)
    error = models.TextField(blank=True, help_text="What went wrong, in one line.")
    tries = models.PositiveSmallIntegerField(default=0)
    try_token = models.UUIDField(
        null=True, editable=False, help_text="Try that holds the row, or that finished it."
    )
    heartbeat = models.PositiveBigIntegerField(
        default=0, editable=False, help_text="Counted up by the try while it is alive."
    )
    task_id = models.CharField(
        max_length=64,
        blank=True,
        editable=False,
        help_text="Queue's id of the task that stands for it.",
    )
    cancel_requested = models.BooleanField(default=False)
    created_at = models.DateTimeField(auto_now_add=True)
    started_at = models.DateTimeField(null=True, blank=True)
    finished_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        abstract = True
        # The watch looks at open rows every few seconds, however many have ended.
        indexes: ClassVar[tuple[models.Index, ...]] = (
            models.Index(
                fields=("state",),
                name="%(class)s_open",
                condition=models.Q(state__in=("waiting", "running")),
            ),
        )
