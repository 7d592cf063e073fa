"""Batches as JSON."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from zesty_core.delivery.level_set import SET_LEVELS
from zesty_core.delivery.names import DEFAULT_PATTERN
from zesty_core.delivery.outliers import outliers
from zesty_server.batches.models import Batch
from zesty_server.batches.services import Order
from zesty_server.recipes.models import Recipe
from zesty_server.recordings.models import Recording
from zesty_server.runs.serializers import RunSerializer
from zesty_server.targets.models import Target
from zesty_server.targets.serializers import FileWishSerializer


class BatchSerializer(serializers.ModelSerializer[Batch]):
    """A batch with its runs."""

    runs = RunSerializer(many=True, read_only=True)
    target_name = serializers.SerializerMethodField()
    file = FileWishSerializer(read_only=True)
    tags = serializers.DictField(child=serializers.CharField(), read_only=True)
    unusual = serializers.SerializerMethodField(
        help_text="By run: what it needed that the others did not, in words."
    )

    class Meta:
        model = Batch
        fields = (
            "id",
            "name",
            "recipe",
            "recipe_name",
            "recipe_version",
            "ordered_target",
            "target_name",
            "file",
            "name_pattern",
            "set_level",
            "tags",
            "cover",
            "paused",
            "created_at",
            "unusual",
            "runs",
        )
        read_only_fields = fields

    def get_target_name(self, batch: Batch) -> str | None:
        """Of the target as it was."""
        return batch.target["name"] if batch.target else None

    def get_unusual(self, batch: Batch) -> dict[str, list[str]]:
        """Nothing for most."""
        runs = list(batch.runs.all())
        said = outliers([(r.before, r.after) if r.before and r.after else None for r in runs])
        return {str(run.pk): words for run, words in zip(runs, said, strict=True) if words}


class OwnSerializer(serializers.Serializer[None]):
    """What one recording of a batch has of its own."""

    name = serializers.CharField(required=False, allow_blank=True, max_length=120)
    tags = serializers.DictField(child=serializers.CharField(allow_blank=True), required=False)


class StartBatchSerializer(serializers.Serializer[None]):
    """What to run over what, and what to deliver."""

    recordings = serializers.PrimaryKeyRelatedField(
        queryset=Recording.objects.filter(deleted_at=None), many=True
    )
    name = serializers.CharField(required=False, allow_blank=True, max_length=200, default="")
    recipe = serializers.PrimaryKeyRelatedField(
        queryset=Recipe.objects.all(),
        required=False,
        allow_null=True,
        default=None,
        help_text="Null: each recording's own chain.",
    )
    target = serializers.PrimaryKeyRelatedField(
        queryset=Target.objects.all(), required=False, allow_null=True, default=None
    )
    file = FileWishSerializer(required=False)
    name_pattern = serializers.CharField(required=False, max_length=120, default=DEFAULT_PATTERN)
    set_level = serializers.ChoiceField(SET_LEVELS, required=False, default="alike")
    tags = serializers.DictField(
        child=serializers.CharField(allow_blank=True), required=False, default=dict
    )
    cover = serializers.CharField(required=False, allow_blank=True, default="")
    own = serializers.DictField(child=OwnSerializer(), required=False, default=dict)

    def order(self) -> Order:
        """As the services want it."""
        data: dict[str, Any] = dict(self.validated_data)
        return Order(**data)


class PlannedSerializer(serializers.Serializer[dict[str, Any]]):
    """A delivery as it will be made."""

    recording = serializers.UUIDField()
    file_name = serializers.CharField()
    tags = serializers.DictField(child=serializers.CharField())
    offset_lu = serializers.FloatField()
