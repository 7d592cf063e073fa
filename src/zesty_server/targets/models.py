"""Targets."""

from __future__ import annotations

import uuid
from typing import Any

from django.db import models

from zesty_core.targets.document import FORMAT, VERSION
from zesty_core.targets.document import Target as Document
from zesty_server.accounts.models import Owned, one_of_a_name


class Target(Owned):
    """What a delivery must meet; ``bounds`` and ``file`` are those of the target document."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=200)
    description = models.TextField(blank=True)
    bounds = models.JSONField(default=dict)
    file = models.JSONField(default=dict, help_text="Kind of file; what is left out is free.")
    intro = models.JSONField(null=True, help_text="Bed, overlap and level of the intro.")
    outro = models.JSONField(null=True, help_text="Bed, overlap and level of the outro.")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("name",)
        constraints = one_of_a_name("target", "name")

    def __str__(self) -> str:
        return self.name

    def as_json(self) -> dict[str, Any]:
        """The open document as JSON."""
        return {
            "format": FORMAT,
            "version": VERSION,
            "name": self.name,
            "description": self.description,
            "bounds": self.bounds,
            "file": self.file,
        }

    @property
    def document(self) -> Document:
        """The target as the core knows it."""
        return Document.from_json(self.as_json())
