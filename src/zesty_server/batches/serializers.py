"""Batches as JSON."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from zesty_core.delivery.level_set import SET_LEVELS
from zesty_core.delivery.names import DEFAULT_PATTERN
from zesty_core.delivery.outliers import outliers
from zesty_server.accounts.one_of import OneOf
from zesty_server.batches.models import Batch
from zesty_server.batches.services import Order
from zesty_server.deliveries.models import Delivery
from zesty_server.http.fields import NumberField, WholeField
from zesty_server.recipes.models import Recipe
from zesty_server.recordings.selectors import recordings_alone
from zesty_server.recordings.serializers import LevelsSerializer
from zesty_server.runs.models import Run
from zesty_server.runs.serializers import RunHeadSerializer
from zesty_server.targets.models import Target
from zesty_server.targets.serializers import FileWishSerializer, RuleSerializer


class RowFiguresSerializer(LevelsSerializer):
    """What a row of a batch shows of all the measures."""

    clearance_db = NumberField(allow_null=True)
    integrated_lufs = NumberField(allow_null=True)


_ROW_FIGURES = tuple(RowFiguresSerializer().fields)


def _row_figures(measures: dict[str, Any] | None) -> dict[str, Any] | None:
    return {name: measures.get(name) for name in _ROW_FIGURES} if measures else None


class BatchDeliverySerializer(serializers.ModelSerializer[Delivery]):
    """A finished file in a row, and how it was judged."""

    file_name = serializers.CharField(read_only=True)
    target_name = serializers.SerializerMethodField()
    rules = RuleSerializer(source="check_of_file", many=True, read_only=True)
    measures = serializers.SerializerMethodField(help_text="Of the finished file.")

    class Meta:
        model = Delivery
        fields = ("id", "file_name", "target_name", "rules", "measures")
        read_only_fields = fields

    def get_target_name(self, made: Delivery) -> str | None:
        """Of the target as it was."""
        return made.target["name"] if made.target else None

    @extend_schema_field(RowFiguresSerializer(allow_null=True))
    def get_measures(self, made: Delivery) -> dict[str, Any] | None:
        """Those of a row."""
        return _row_figures(made.measures)


class BatchFileSerializer(RunHeadSerializer):
    """One recording of a batch: no more than its row needs, for a batch is asked for while it works."""

    before = serializers.SerializerMethodField()
    after = serializers.SerializerMethodField()
    delivery = serializers.SerializerMethodField()

    class Meta(RunHeadSerializer.Meta):
        fields: tuple[str, ...] = (
            *RunHeadSerializer.Meta.fields,
            "before",
            "after",
            "voice_gain_db",
            "delivery",
        )
        read_only_fields = fields

    @extend_schema_field(RowFiguresSerializer(allow_null=True))
    def get_before(self, run: Run) -> dict[str, Any] | None:
        """Of the recording."""
        return _row_figures(run.before)

    @extend_schema_field(RowFiguresSerializer(allow_null=True))
    def get_after(self, run: Run) -> dict[str, Any] | None:
        """Of the result."""
        return _row_figures(run.after)

    @extend_schema_field(BatchDeliverySerializer(allow_null=True))
    def get_delivery(self, run: Run) -> dict[str, Any] | None:
        """The finished file."""
        return BatchDeliverySerializer(run.delivery).data if hasattr(run, "delivery") else None


class BatchSerializer(serializers.ModelSerializer[Batch]):
    """A batch, and how many of its recordings are where."""

    target_name = serializers.SerializerMethodField()
    file = FileWishSerializer(read_only=True)
    tags = serializers.DictField(child=serializers.CharField(), read_only=True)
    done = WholeField(read_only=True)
    to_go = WholeField(read_only=True, help_text="Waiting or at work.")
    stopped = WholeField(read_only=True, help_text="Failed or cancelled.")

    class Meta:
        model = Batch
        fields: tuple[str, ...] = (
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
            "done",
            "to_go",
            "stopped",
        )
        read_only_fields = fields

    def get_target_name(self, batch: Batch) -> str | None:
        """Of the target as it was."""
        return batch.target["name"] if batch.target else None


class WholeBatchSerializer(BatchSerializer):
    """A batch with its recordings."""

    runs = BatchFileSerializer(many=True, read_only=True)
    unusual = serializers.SerializerMethodField(
        help_text="By run: what it needed that the others did not, in words."
    )

    class Meta(BatchSerializer.Meta):
        fields: tuple[str, ...] = (*BatchSerializer.Meta.fields, "unusual", "runs")
        read_only_fields = fields

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

    recordings = OneOf(recordings_alone, many=True)
    name = serializers.CharField(required=False, allow_blank=True, max_length=200, default="")
    recipe = OneOf(
        Recipe.objects.all,
        required=False,
        allow_null=True,
        default=None,
        help_text="Null: each recording's own chain.",
    )
    target = OneOf(Target.objects.all, required=False, allow_null=True, default=None)
    file = FileWishSerializer(required=False)
    name_pattern = serializers.CharField(required=False, max_length=120, default=DEFAULT_PATTERN)
    set_level = serializers.ChoiceField(SET_LEVELS, required=False, default="alike")
    tags = serializers.DictField(
        child=serializers.CharField(allow_blank=True), required=False, default=dict
    )
    cover = serializers.CharField(required=False, allow_blank=True, default="")
    own = serializers.DictField(child=OwnSerializer(), required=False, default=dict)
    keep_tags = serializers.BooleanField(
        required=False,
        default=True,
        help_text="Tags and cover of each recording stay where nothing else is asked for.",
    )

    def order(self) -> Order:
        """As the services want it."""
        data: dict[str, Any] = dict(self.validated_data)
        return Order(**data)


class PlannedSerializer(serializers.Serializer[dict[str, Any]]):
    """A delivery as it will be made."""

    recording = serializers.UUIDField()
    file_name = serializers.CharField()
    tags = serializers.DictField(child=serializers.CharField())
    offset_lu = NumberField()
