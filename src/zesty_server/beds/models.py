"""Music beds, and mixes over them."""

from __future__ import annotations

import uuid
from pathlib import Path

from django.conf import settings
from django.db import models

from zesty_server.accounts.models import Owned
from zesty_server.accounts.owning import OwnedManager
from zesty_server.deliveries.models import FinishedFile
from zesty_server.jobs.models import Job
from zesty_server.runs.models import MIXES


class Bed(Owned):
    """A piece of music to lay under voices, kept as it came."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=200)
    original_name = models.CharField(max_length=255)
    duration_s = models.FloatField()
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name

    @property
    def path(self) -> Path:
        """Its file."""
        return Path(settings.MEDIA_ROOT) / "beds" / str(self.pk)


class Mix(Job, FinishedFile):
    """A run's result over a bed, as a file; it lies with the run."""

    owned_by = "run__recording__owner"

    run = models.ForeignKey("runs.Run", on_delete=models.CASCADE, related_name="mixes")
    bed = models.ForeignKey(Bed, null=True, on_delete=models.SET_NULL, related_name="mixes")
    bed_name = models.CharField(max_length=200)
    params = models.JSONField(default=dict, help_text="How the bed lies under the voice.")

    objects = OwnedManager()

    class Meta(Job.Meta):
        ordering = ("-created_at",)
        verbose_name_plural = "mixes"

    @property
    def home(self) -> Path:
        """Folder of all its tries, in that of the run."""
        return Path(self.run.home) / MIXES / str(self.pk)

    @property
    def folder(self) -> Path:
        """Where the files of the try lie that holds the row, or that finished it."""
        return self.home / str(self.try_token) if self.try_token else self.home
