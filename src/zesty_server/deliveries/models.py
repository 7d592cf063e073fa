"""Deliveries."""

from __future__ import annotations

import uuid
from pathlib import Path

from django.db import models


class Delivery(models.Model):
    """A finished file of a run: what was ordered, and what came out. Files lie with the run."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    run = models.OneToOneField("runs.Run", on_delete=models.CASCADE, related_name="delivery")
    name = models.CharField(max_length=200, help_text="Name of the file without its ending.")
    target = models.JSONField(null=True, help_text="The target's document as it was.")
    file = models.JSONField(default=dict, help_text="Kind of file; what is left out is free.")
    tags = models.JSONField(default=dict)
    cover = models.CharField(max_length=64, blank=True, help_text="Hash of a kept picture.")
    offset_lu = models.FloatField(
        default=0.0, help_text="How far it may stand from its set's level."
    )
    check_of_file = models.JSONField(default=list, help_text="Rules, judged on the file itself.")
    measures = models.JSONField(null=True, help_text="Of the finished file.")
    size_bytes = models.BigIntegerField(default=0)
    sha256 = models.CharField(max_length=64, blank=True)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("created_at",)
        verbose_name_plural = "deliveries"

    def __str__(self) -> str:
        return self.file_name

    @property
    def file_name(self) -> str:
        """Name with its ending."""
        return f"{self.name}.{str(self.file.get('container') or 'WAV').lower()}"

    @property
    def path(self) -> Path:
        """The finished file; names given by people are never paths."""
        return self.run.folder / f"delivery.{str(self.file.get('container') or 'WAV').lower()}"

    @property
    def receipt_path(self) -> Path:
        """Its receipt."""
        return self.run.folder / "receipt.json"
