"""Blind picks as JSON."""

from __future__ import annotations

from rest_framework import serializers

from zesty_server.comparisons.models import BlindPick
from zesty_server.recipes.serializers import StepSerializer


class BlindPickSerializer(serializers.ModelSerializer[BlindPick]):
    """Picks of some rounds, and what they are worth."""

    chain = StepSerializer(many=True)
    picked_after = serializers.ListField(child=serializers.BooleanField())
    rounds = serializers.IntegerField(read_only=True)
    count_after = serializers.IntegerField(read_only=True)
    chance = serializers.FloatField(
        read_only=True, help_text="How often guessing would lean as far, 0 to 1."
    )
    verdict = serializers.CharField(read_only=True)

    class Meta:
        model = BlindPick
        fields = (
            "id",
            "recording",
            "chain",
            "start_s",
            "end_s",
            "picked_after",
            "rounds",
            "count_after",
            "chance",
            "verdict",
            "created_at",
        )
