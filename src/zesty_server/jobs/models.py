"""State that every piece of background work carries on its own row.

A queue loses a task whose worker is killed; the row's lease does not: when it runs out, the work is
taken up again, at most ``MOST_TRIES`` times.
"""

from __future__ import annotations

import uuid

from django.db import models

MOST_TRIES = 3


class JobState(models.TextChoices):
    """Where the work stands."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


class Job(models.Model):
    """Abstract row of background work."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    state = models.CharField(max_length=12, choices=JobState.choices, default=JobState.WAITING)
    progress = models.FloatField(default=0.0, help_text="Share done, 0 to 1.")
    doing = models.CharField(max_length=200, blank=True, help_text="What it is at.")
    error_code = models.CharField(max_length=40, blank=True)
    error = models.TextField(blank=True, help_text="What went wrong, in one line.")
    tries = models.PositiveSmallIntegerField(default=0)
    lease_until = models.DateTimeField(null=True, blank=True)
    cancel_requested = models.BooleanField(default=False)
    created_at = models.DateTimeField(auto_now_add=True)
    started_at = models.DateTimeField(null=True, blank=True)
    finished_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        abstract = True
