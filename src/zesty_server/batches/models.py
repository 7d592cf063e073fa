"""Batches."""

from __future__ import annotations

import uuid

from django.db import models


class Batch(models.Model):
    """One recipe over chosen recordings; each is a run of its own."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=200)
    recipe_name = models.CharField(max_length=200)
    recipe_version = models.PositiveIntegerField()
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-created_at",)
        verbose_name_plural = "batches"

    def __str__(self) -> str:
        return self.name
