"""Mixes over music beds."""

from __future__ import annotations

from pathlib import Path

from django.db import models

from zesty_server.accounts.owning import OwnedManager
from zesty_server.beds.models import Bed
from zesty_server.deliveries.models import FinishedFile
from zesty_server.jobs.models import Job
from zesty_server.runs.models import MIXES


class Mix(Job, FinishedFile):
    """A run's result over a bed, as a file; it lies with the run."""

    owned_by = "run__recording__owner"

    run = models.ForeignKey("runs.Run", on_delete=models.CASCADE, related_name="mixes")
    bed = models.ForeignKey(Bed, null=True, on_delete=models.SET_NULL, related_name="mixes")
    bed_name = models.CharField(max_length=200)
    params = models.JSONField(default=dict, help_text="How the bed lies under the voice.")

    objects = OwnedManager()

    class Meta(Job.Meta):
        app_label = "beds"  # its table is older than this package
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
