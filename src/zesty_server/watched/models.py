"""Watched folders and the files imported from them."""

from __future__ import annotations

from pathlib import Path

from django.db import models

from zesty_server.accounts.models import Owned
from zesty_server.accounts.owning import OwnedManager
from zesty_server.jobs.models import Job


class WatchedFolder(Owned, Job):
    """A folder of this machine; the job fields describe the last pass over it."""

    folder = models.CharField(max_length=1000, help_text="Folder to watch.")
    out_folder = models.CharField(max_length=1000, help_text="Output folder.")
    recipe = models.ForeignKey(
        "recipes.Recipe", null=True, on_delete=models.SET_NULL, related_name="+"
    )
    target = models.ForeignKey(
        "targets.Target", null=True, on_delete=models.SET_NULL, related_name="+"
    )
    paused = models.BooleanField(default=False)
    batch = models.ForeignKey(
        "batches.Batch",
        null=True,
        on_delete=models.SET_NULL,
        related_name="+",
        help_text="Collects its runs.",
    )
    pending_sizes = models.JSONField(
        default=dict, help_text="Size and time of files that are not imported yet, by name."
    )
    problem = models.CharField(
        max_length=300, blank=True, help_text="Why the folder cannot be read."
    )

    class Meta(Job.Meta):
        ordering = ("created_at",)

    def __str__(self) -> str:
        return self.folder

    @property
    def path(self) -> Path:
        """The watched folder."""
        return Path(self.folder)

    @property
    def out_path(self) -> Path:
        """The output folder."""
        return Path(self.out_folder)


class FileState(models.TextChoices):
    """Progress of an imported file."""

    MEASURING = "measuring"
    RUNNING = "running"
    DELIVERED = "delivered"
    FAILED = "failed"


class WatchedFile(models.Model):
    """One imported file. The same name with another size or time is another file."""

    owned_by = "watched__owner"

    watched = models.ForeignKey(WatchedFolder, on_delete=models.CASCADE, related_name="files")
    name = models.CharField(max_length=255)
    size_bytes = models.BigIntegerField()
    mtime_ns = models.BigIntegerField()
    state = models.CharField(max_length=12, choices=FileState.choices, default=FileState.MEASURING)
    recording = models.ForeignKey(
        "recordings.Recording", null=True, on_delete=models.SET_NULL, related_name="+"
    )
    run = models.ForeignKey("runs.Run", null=True, on_delete=models.SET_NULL, related_name="+")
    delivered_as = models.CharField(max_length=255, blank=True)
    message = models.TextField(blank=True, help_text="The error, or the rules that are not met.")
    received_at = models.DateTimeField(auto_now_add=True)

    objects = OwnedManager()

    class Meta:
        ordering = ("-received_at", "-pk")
        constraints = (
            models.UniqueConstraint(
                fields=("watched", "name", "size_bytes", "mtime_ns"), name="one_row_for_each_file"
            ),
        )

    def __str__(self) -> str:
        return self.name
