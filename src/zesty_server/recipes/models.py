"""Recipes."""

from __future__ import annotations

import uuid

from django.db import models

from zesty_server.accounts.models import Owned, one_of_a_name
from zesty_server.accounts.owning import OwnedManager


class Recipe(Owned):
    """A saved chain. ``steps`` is the list of the recipe document, defaults written out."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=200)
    description = models.TextField(blank=True)
    group = models.CharField(max_length=200, blank=True, help_text="Show, client or purpose.")
    steps = models.JSONField(default=list)
    version = models.PositiveIntegerField(default=1, help_text="Goes up when the steps change.")
    created_at = models.DateTimeField(auto_now_add=True)
    updated_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ("name",)
        constraints = one_of_a_name("recipe", "name")

    def __str__(self) -> str:
        return self.name


class RecipeVersion(models.Model):
    """The steps of a recipe as they were in one of its versions."""

    owned_by = "recipe__owner"

    recipe = models.ForeignKey(Recipe, on_delete=models.CASCADE, related_name="versions")
    version = models.PositiveIntegerField()
    steps = models.JSONField()
    created_at = models.DateTimeField(auto_now_add=True)

    objects = OwnedManager()

    class Meta:
        ordering = ("-version",)
        constraints = (
            models.UniqueConstraint(fields=("recipe", "version"), name="one_row_for_each_version"),
        )

    def __str__(self) -> str:
        return f"{self.recipe.name}, version {self.version}"


class SavedSettings(Owned):
    """One step's settings under a name."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    type = models.CharField(max_length=40, help_text="Type of the step.")
    name = models.CharField(max_length=200)
    params = models.JSONField(help_text="Every setting written out.")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("type", "name")
        constraints = one_of_a_name("saved_settings", "type", "name")

    def __str__(self) -> str:
        return f"{self.name} ({self.type})"
