"""Uploads."""

from __future__ import annotations

import uuid
from pathlib import Path

from django.conf import settings
from django.db import models

from zesty_server.accounts.models import Owned, one_of_a_name


class Upload(Owned):
    """A file of which a part has come in. The part itself says how much, so that not even a
    power cut can make the two disagree."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=255, help_text="The file's name.")
    size_bytes = models.BigIntegerField()
    modified_ms = models.BigIntegerField(help_text="When the file was last changed, by its owner.")
    touched_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ("-touched_at",)
        constraints = one_of_a_name("upload", "name", "size_bytes", "modified_ms")

    def __str__(self) -> str:
        return self.name

    @property
    def path(self) -> Path:
        """What has come in."""
        return Path(settings.MEDIA_ROOT) / "uploads" / f"{self.pk}.part"

    @property
    def received_bytes(self) -> int:
        """How much has come in."""
        try:
            return self.path.stat().st_size
        except FileNotFoundError:
            return 0
