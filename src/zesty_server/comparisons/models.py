"""Blind picks."""

from __future__ import annotations

import uuid

from django.db import models

from zesty_core.compare.guessing import chance_of_guessing, verdict
from zesty_server.accounts.owning import OwnedManager


class BlindPick(models.Model):
    """Which side was picked, round by round, when nobody could know which was which."""

    owned_by = "recording__owner"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    recording = models.ForeignKey(
        "recordings.Recording", on_delete=models.CASCADE, related_name="blind_picks"
    )
    chain = models.JSONField(help_text="Steps that made after.")
    start_s = models.FloatField(help_text="Passage, in times of what the cuts leave.")
    end_s = models.FloatField()
    picked_after = models.JSONField(help_text="For each round, whether after was picked.")
    created_at = models.DateTimeField(auto_now_add=True)

    objects = OwnedManager()

    class Meta:
        ordering = ("-created_at",)

    def __str__(self) -> str:
        return f"{self.recording.name}: {self.verdict}"

    @property
    def rounds(self) -> int:
        """How many."""
        return len(self.picked_after)

    @property
    def count_after(self) -> int:
        """How often after was picked."""
        return sum(self.picked_after)

    @property
    def chance(self) -> float:
        """How often guessing would lean as far."""
        return chance_of_guessing(self.rounds, self.count_after)

    @property
    def verdict(self) -> str:
        """In plain words."""
        return verdict(self.rounds, self.count_after)


class Tasting(models.Model):
    """Several treatments of one passage, tried against each other: notes, and an order of liking."""

    owned_by = "recording__owner"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    recording = models.ForeignKey(
        "recordings.Recording", on_delete=models.CASCADE, related_name="tastings"
    )
    start_s = models.FloatField(help_text="Passage, in times of what the cuts leave.")
    end_s = models.FloatField()
    blind = models.BooleanField(help_text="Whether nobody could know which was which.")
    entries = models.JSONField(help_text="Best liked first: label, steps, note.")
    created_at = models.DateTimeField(auto_now_add=True)

    objects = OwnedManager()

    class Meta:
        ordering = ("-created_at",)

    def __str__(self) -> str:
        return f"{self.recording.name}: {', '.join(e['label'] for e in self.entries)}"
