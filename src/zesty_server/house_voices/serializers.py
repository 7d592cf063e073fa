"""House voices as JSON."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from zesty_core.measures.house_voice import TONE_HZ
from zesty_server.accounts.one_of import OneOf
from zesty_server.house_voices.models import HouseVoice
from zesty_server.http.fields import NumberField
from zesty_server.http.kept_json import KeptJsonSerializer
from zesty_server.recipes.serializers import StepSerializer
from zesty_server.recordings.models import Recording

MOST_RECORDINGS = 200


class HouseVoiceFiguresSerializer(KeptJsonSerializer):
    """What recordings are compared with."""

    tone_db = serializers.ListField(
        child=NumberField(),
        min_length=len(TONE_HZ),
        max_length=len(TONE_HZ),
        help_text="Third octaves from 100 Hz to 10 kHz, relative to their mean.",
    )
    voice_level_dbfs = NumberField(allow_null=True)
    spread_db = NumberField(allow_null=True, help_text="10th to 90th percentile of phrases.")
    clearance_db = NumberField(allow_null=True)


class HouseVoiceSerializer(serializers.ModelSerializer[HouseVoice]):
    """A house voice."""

    figures = HouseVoiceFiguresSerializer(read_only=True)
    made_of = serializers.ListField(child=serializers.CharField(), read_only=True)

    class Meta:
        model = HouseVoice
        fields = ("id", "name", "figures", "made_of", "created_at")
        read_only_fields = ("id", "created_at")


class NewHouseVoiceSerializer(serializers.Serializer[None]):
    """A name, and the finished recordings whose voice is kept under it."""

    name = serializers.CharField(max_length=200)
    recordings = OneOf(lambda: Recording.objects.filter(deleted_at=None), many=True)

    def validate_recordings(self, value: list[Recording]) -> list[Recording]:
        """At least one, and no more than can be read at once."""
        if not 1 <= len(value) <= MOST_RECORDINGS:
            raise serializers.ValidationError(f"1 to {MOST_RECORDINGS} are allowed")
        return value


class ComparedWithSerializer(serializers.Serializer[None]):
    """Which recording is compared."""

    recording = OneOf(lambda: Recording.objects.filter(deleted_at=None))


class DistanceSerializer(serializers.Serializer[dict[str, Any]]):
    """Recording less house voice, in dB."""

    tone_db = NumberField(help_text="Mean difference of the third octaves, whatever the level.")
    bands_db = serializers.ListField(child=NumberField())
    voice_level_db = NumberField(allow_null=True)
    spread_db = NumberField(allow_null=True)
    clearance_db = NumberField(allow_null=True)


class ComparedSerializer(serializers.Serializer[dict[str, Any]]):
    """A recording beside a house voice, and the step that closes the gap."""

    recorded = DistanceSerializer(allow_null=True)
    finished = DistanceSerializer(allow_null=True, help_text="Of its latest result.")
    step = StepSerializer()
