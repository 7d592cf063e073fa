"""Mixes as JSON."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from rest_framework import serializers

from zesty_server.accounts.one_of import OneOf
from zesty_server.beds.models import Bed
from zesty_server.deliveries.serializers import FINISHED_FIELDS, FinishedFileSerializer
from zesty_server.http.fields import NumberField, WholeField
from zesty_server.jobs.models import JobState
from zesty_server.mixes.models import Mix
from zesty_server.mixes.services import MixOrder
from zesty_server.runs.models import Run
from zesty_server.targets.models import Target
from zesty_server.targets.serializers import FileWishSerializer


def _finished_runs() -> QuerySet[Run]:
    return Run.objects.filter(state=JobState.DONE)


class LayBedSerializer(serializers.Serializer[None]):
    """Which bed, how, and which stretch of the mix to hear."""

    bed = OneOf(Bed.objects.all)
    params = serializers.DictField(required=False, default=dict)
    start_s = NumberField(min_value=0, required=False, default=0.0)
    end_s = NumberField(min_value=0, required=False, default=0.0)


class LaidSerializer(serializers.Serializer[None]):
    """Figures of a mix; voice and mix follow as samples."""

    sample_rate_hz = WholeField()
    channels = WholeField()
    duration_s = NumberField()
    step_s = NumberField()
    distance_db = serializers.ListField(child=NumberField(allow_null=True))
    bed_gain_db = serializers.ListField(child=NumberField())
    typical_db = NumberField(allow_null=True)
    least_db = NumberField(allow_null=True)


class MixSerializer(FinishedFileSerializer[Mix]):
    """A mix: where its making stands, and how the file was judged."""

    params = serializers.DictField(child=NumberField(), read_only=True)

    class Meta:
        model = Mix
        fields = (
            *FINISHED_FIELDS,
            "run",
            "bed",
            "bed_name",
            "params",
            "state",
            "progress",
            "doing",
            "error",
            "created_at",
        )
        read_only_fields = fields


class StartMixSerializer(serializers.Serializer[None]):
    """Which result over which bed, and what file is wanted."""

    run = OneOf(_finished_runs)
    bed = OneOf(Bed.objects.all)
    params = serializers.DictField(required=False, default=dict)
    name = serializers.CharField(required=False, allow_blank=True, max_length=120, default="")
    target = OneOf(Target.objects.all, required=False, allow_null=True, default=None)
    file = FileWishSerializer(required=False)
    tags = serializers.DictField(
        child=serializers.CharField(allow_blank=True), required=False, default=dict
    )
    cover = serializers.CharField(required=False, allow_blank=True, default="")

    def order(self) -> MixOrder:
        """As the services want it."""
        data: dict[str, Any] = dict(self.validated_data)
        return MixOrder(**data)
