"""Runs as JSON."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from zesty_core.compare.findings import differences_in_words
from zesty_server.accounts.one_of import OneOf
from zesty_server.deliveries.serializers import DeliverySerializer
from zesty_server.http.fields import NumberField, WholeField
from zesty_server.http.kept_json import KeptJsonSerializer
from zesty_server.recipes.serializers import StepSerializer
from zesty_server.recordings.edited_sound import EDIT_FIELDS
from zesty_server.recordings.selectors import recordings_alone
from zesty_server.recordings.serializers import (
    JOB_FIELDS,
    InsertSerializer,
    LevelsSerializer,
    MarkerSerializer,
    MeasuresSerializer,
    RepairsSerializer,
    SpanSerializer,
    SpeakersSerializer,
)
from zesty_server.runs.models import Run


class PointSerializer(KeptJsonSerializer):
    """Levels after one step, and what the step reports."""

    type = serializers.CharField()
    enabled = serializers.BooleanField()
    levels = LevelsSerializer()
    report = serializers.DictField()


class CorrectionSerializer(KeptJsonSerializer):
    """What a proposal corrects about itself, and its steps after that."""

    words = serializers.ListField(child=serializers.CharField())
    steps = StepSerializer(many=True)


class UsedRoomToneSerializer(KeptJsonSerializer):
    """Room tone of a run: marked, found, from another recording, or none."""

    source = serializers.CharField()  # type: ignore[assignment]  # a field called source
    span = SpanSerializer(allow_null=True, help_text="Where the noise is read.")
    learned_spans = SpanSerializer(
        many=True, required=False, help_text="Where noise is learned from."
    )


class RunHeadSerializer(serializers.ModelSerializer[Run]):
    """What every answer with a run says of it."""

    recording_name = serializers.CharField(source="recording.name", read_only=True)
    duration_s = NumberField(read_only=True)
    channels = WholeField(read_only=True)
    chain = StepSerializer(many=True, read_only=True)
    cuts = SpanSerializer(many=True, read_only=True)
    inserts = InsertSerializer(many=True, read_only=True)
    markers = MarkerSerializer(many=True, read_only=True)
    speakers = SpeakersSerializer(read_only=True, allow_null=True)
    repairs = RepairsSerializer(read_only=True, allow_null=True)
    notes = serializers.ListField(child=serializers.CharField(), read_only=True)
    mended = serializers.DictField(
        child=WholeField(), read_only=True, help_text="Events that repairs have mended, by step."
    )

    class Meta:
        model = Run
        fields: tuple[str, ...] = (
            "id",
            "recording",
            "recording_name",
            "label",
            "duration_s",
            "channels",
            "chain",
            *EDIT_FIELDS,
            "notes",
            "mended",
            "started_at",
            *JOB_FIELDS,
        )
        read_only_fields = fields


class RunSerializer(RunHeadSerializer):
    """A run with what went in and what came out."""

    before = MeasuresSerializer(read_only=True, allow_null=True)
    after = MeasuresSerializer(read_only=True, allow_null=True)
    points = PointSerializer(many=True, read_only=True)
    room_tone = UsedRoomToneSerializer(read_only=True, allow_null=True)
    delivery = serializers.SerializerMethodField()
    target_name = serializers.SerializerMethodField(
        help_text="Of the target its last steps were fitted to."
    )
    differences = serializers.SerializerMethodField(
        help_text="What the chain has changed, in plain words."
    )

    class Meta(RunHeadSerializer.Meta):
        fields: tuple[str, ...] = (
            *RunHeadSerializer.Meta.fields,
            "batch",
            "recipe_name",
            "recipe_version",
            "engine_version",
            "before",
            "after",
            "voice_gain_db",
            "points",
            "room_tone",
            "differences",
            "delivery",
            "target_name",
            "clipped_samples",
        )
        read_only_fields = fields

    def get_target_name(self, run: Run) -> str | None:
        """As it was."""
        return run.target["name"] if run.target else None

    @extend_schema_field(DeliverySerializer(allow_null=True))
    def get_delivery(self, run: Run) -> dict[str, Any] | None:
        """The finished file of a run in a batch."""
        return DeliverySerializer(run.delivery).data if hasattr(run, "delivery") else None

    def get_differences(self, run: Run) -> list[str]:
        """From the measures before and after."""
        return differences_in_words(run.before, run.after) if run.before and run.after else []


class RunLabelSerializer(serializers.Serializer[None]):
    """What a result is to be called; empty: by its time again."""

    label = serializers.CharField(  # type: ignore[assignment]  # a field called label
        max_length=120, allow_blank=True
    )


class StartRunSerializer(serializers.Serializer[None]):
    """Which recording to run the chain of; ``fit`` sets its last steps to meet its target."""

    fit = serializers.BooleanField(required=False, default=False)

    recording = OneOf(recordings_alone)
