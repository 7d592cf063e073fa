"""Room tones."""

from __future__ import annotations

import uuid
from datetime import datetime
from pathlib import Path

from django.conf import settings
from django.db import models

from zesty_server.accounts.models import Owned


class RoomTone(Owned):
    """A named stretch of a recording in which nobody speaks; usable on any recording."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=200, help_text="Name of the room or microphone.")
    recording = models.ForeignKey(
        "recordings.Recording",
        null=True,
        on_delete=models.SET_NULL,
        related_name="room_tones",
        help_text="Where the sample comes from; null when that is gone for good.",
    )
    start_s = models.FloatField()
    end_s = models.FloatField()
    level_dbfs = models.FloatField(null=True, help_text="RMS without DC; null for silence.")
    profile = models.JSONField(null=True, help_text="Bands, steady tones, what is wrong.")
    created_at = models.DateTimeField(auto_now_add=True)

    #: Set where tones are compared: what differs from the sample of the same room before this one.
    changes: list[str]
    changed_since: datetime | None

    class Meta:
        ordering = ("-created_at",)

    def __str__(self) -> str:
        return self.name

    @property
    def sound_path(self) -> Path:
        """The sample by itself, once its recording is gone."""
        return Path(settings.MEDIA_ROOT) / "room-tones" / f"{self.pk}.wav"
