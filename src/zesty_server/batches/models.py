"""Batches."""

from __future__ import annotations

import uuid

from django.db import models

from zesty_server.accounts.models import Owned


class Batch(Owned):
    """A recipe, or each recording's own chain, over chosen recordings towards one target.

    Each recording is a run of its own, with a delivery.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=200)
    recipe = models.ForeignKey(
        "recipes.Recipe", null=True, blank=True, on_delete=models.SET_NULL, related_name="batches"
    )
    recipe_name = models.CharField(max_length=200, blank=True, help_text="Empty: own chains.")
    recipe_version = models.PositiveIntegerField(null=True)
    target = models.JSONField(null=True, help_text="The target's document as it was.")
    name_pattern = models.CharField(max_length=120, default="{title}")
    set_level = models.CharField(max_length=8, default="alike", help_text="alike or keep")
    # With recipe, name pattern and levels: what a later batch can be set up as.
    ordered_target = models.ForeignKey(
        "targets.Target", null=True, on_delete=models.SET_NULL, related_name="batches"
    )
    file = models.JSONField(default=dict, help_text="Kind of file where it is not the target's.")
    tags = models.JSONField(default=dict, help_text="Tags of all its files, fields unfilled.")
    cover = models.CharField(max_length=64, blank=True, help_text="Hash of a kept picture.")
    paused = models.BooleanField(default=False)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-created_at",)
        verbose_name_plural = "batches"

    def __str__(self) -> str:
        return self.name
