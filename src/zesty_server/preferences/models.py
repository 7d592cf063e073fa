"""Preferences."""

from __future__ import annotations

from django.db import models

from zesty_server.accounts.models import Owned


class Preferences(Owned):
    """What recordings begin with when they come in."""

    recipe = models.ForeignKey(
        "recipes.Recipe",
        null=True,
        on_delete=models.SET_NULL,
        related_name="+",
        help_text="Whose chain new recordings get; null for none.",
    )
    run_at_once = models.BooleanField(
        default=False, help_text="Whether that chain runs as soon as a recording is measured."
    )
    target = models.ForeignKey(
        "targets.Target",
        null=True,
        on_delete=models.SET_NULL,
        related_name="+",
        help_text="What deliveries of new recordings must meet; null for nothing.",
    )

    class Meta:
        verbose_name_plural = "preferences"
        ordering = ("pk",)
        constraints = (
            models.UniqueConstraint(fields=("owner",), name="one_preferences_for_each_owner"),
        )

    def __str__(self) -> str:
        return f"recipe {self.recipe}, target {self.target}"
