"""Deliveries."""

from __future__ import annotations

import uuid
from pathlib import Path

from django.conf import settings
from django.db import models

from zesty_server.accounts.models import Owned, one_of_a_name
from zesty_server.accounts.owning import OwnedManager


class Cover(Owned):
    """A picture for deliveries; its file is kept by its hash, once for all who brought it in."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    sha256 = models.CharField(max_length=64)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = one_of_a_name("cover", "sha256")

    def __str__(self) -> str:
        return self.sha256

    @property
    def path(self) -> Path:
        """Its file."""
        return Path(settings.MEDIA_ROOT) / "covers" / self.sha256


class FinishedFile(models.Model):
    """Abstract: what was ordered of a file, and what came out. Where it lies, heirs say."""

    name = models.CharField(max_length=200, help_text="Name of the file without its ending.")
    target = models.JSONField(null=True, help_text="The target's document as it was.")
    file = models.JSONField(default=dict, help_text="Kind of file; what is left out is free.")
    tags = models.JSONField(default=dict)
    cover = models.CharField(max_length=64, blank=True, help_text="Hash of a kept picture.")
    check_of_file = models.JSONField(default=list, help_text="Rules, judged on the file itself.")
    measures = models.JSONField(null=True, help_text="Of the finished file.")
    size_bytes = models.BigIntegerField(default=0)
    sha256 = models.CharField(max_length=64, blank=True)

    class Meta:
        abstract = True

    def __str__(self) -> str:
        return self.file_name

    @property
    def ending(self) -> str:
        """Of its name, by its container."""
        return str(self.file.get("container") or "WAV").lower()

    @property
    def file_name(self) -> str:
        """Name with its ending."""
        return f"{self.name}.{self.ending}"

    @property
    def folder(self) -> Path:
        """Where it lies; names given by people are never paths."""
        raise NotImplementedError

    @property
    def path(self) -> Path:
        """The finished file."""
        return self.folder / f"delivery.{self.ending}"

    @property
    def receipt_path(self) -> Path:
        """Its receipt."""
        return self.folder / "receipt.json"


class Delivery(FinishedFile):
    """A finished file of a run; it lies with the run."""

    owned_by = "run__recording__owner"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    run = models.OneToOneField("runs.Run", on_delete=models.CASCADE, related_name="delivery")
    offset_lu = models.FloatField(
        default=0.0, help_text="How far it may stand from its set's level."
    )
    intro = models.JSONField(null=True, help_text="The target's, as it was.")
    outro = models.JSONField(null=True, help_text="The target's, as it was.")
    created_at = models.DateTimeField(auto_now_add=True)

    objects = OwnedManager()

    class Meta:
        ordering = ("created_at",)
        verbose_name_plural = "deliveries"

    @property
    def folder(self) -> Path:
        """The run's."""
        return self.run.folder
