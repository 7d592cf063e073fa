"""Watched folders, and what came into them."""

from __future__ import annotations

from pathlib import Path

from django.db import models

from zesty_server.accounts.models import Owned
from zesty_server.accounts.owning import OwnedManager
from zesty_server.jobs.models import Job


class WatchedFolder(Owned, Job):
    """A folder of this machine; the job fields are those of the last work on what came in."""

    folder = models.CharField(max_length=1000, help_text="Where files come in.")
    out_folder = models.CharField(max_length=1000, help_text="Where finished files are put.")
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
        help_text="Where its runs are gathered.",
    )
    sizes_seen = models.JSONField(
        default=dict, help_text="Size and time of files that may still be growing, by name."
    )
    trouble = models.CharField(max_length=300, blank=True, help_text="Why it cannot be looked at.")

    class Meta(Job.Meta):
        ordering = ("created_at",)

    def __str__(self) -> str:
        return self.folder

    @property
    def path(self) -> Path:
        """Where files come in."""
        return Path(self.folder)

    @property
    def out_path(self) -> Path:
        """Where finished files are put."""
        return Path(self.out_folder)


class FileState(models.TextChoices):
    """How far a file that came in is."""

    MEASURING = "measuring"
    RUNNING = "running"
    DELIVERED = "delivered"
    FAILED = "failed"


class WatchedFile(models.Model):
    """One file as it came in: another size or time of the same name is another file."""

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
    message = models.TextField(blank=True, help_text="What went wrong, or which rules are missed.")
    came_at = models.DateTimeField(auto_now_add=True)

    objects = OwnedManager()

    class Meta:
        ordering = ("-came_at", "-pk")
        constraints = (
            models.UniqueConstraint(
                fields=("watched", "name", "size_bytes", "mtime_ns"), name="one_row_for_each_file"
            ),
        )

    def __str__(self) -> str:
        return self.name
