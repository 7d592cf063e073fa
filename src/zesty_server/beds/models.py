"""Music beds."""

from __future__ import annotations

import uuid
from pathlib import Path

from django.conf import settings
from django.db import models

from zesty_server.accounts.models import Owned


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
