"""House voices."""

from __future__ import annotations

import uuid

from django.db import models

from zesty_core.measures.house_voice import HouseVoice as Document
from zesty_server.accounts.models import Owned, one_of_a_name


class HouseVoice(Owned):
    """The voice a show is used to, taken from finished recordings when it was made."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=200, help_text="Show or narrator.")
    figures = models.JSONField(help_text="Tone, voice level, spread of phrases, clearance.")
    made_of = models.JSONField(default=list, help_text="Names of the recordings it was taken from.")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("name",)
        constraints = one_of_a_name("house_voice", "name")

    def __str__(self) -> str:
        return self.name

    @property
    def document(self) -> Document:
        """The figures by name."""
        return Document.from_json(self.figures)
