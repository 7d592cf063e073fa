"""Deliveries as JSON."""

from __future__ import annotations

from typing import TypeVar

from rest_framework import serializers

from zesty_server.deliveries.models import Delivery, FinishedFile
from zesty_server.recordings.serializers import MeasuresSerializer
from zesty_server.targets.serializers import FileWishSerializer, RuleSerializer

_File = TypeVar("_File", bound=FinishedFile)

FINISHED_FIELDS = (
    "id",
    "name",
    "file_name",
    "file",
    "target_name",
    "tags",
    "rules",
    "measures",
    "size_bytes",
    "sha256",
)


class FinishedFileSerializer(serializers.ModelSerializer[_File]):
    """A finished file and how it was judged."""

    file_name = serializers.CharField(read_only=True)
    file = FileWishSerializer(read_only=True)
    target_name = serializers.SerializerMethodField()
    rules = RuleSerializer(source="check_of_file", many=True, read_only=True)
    measures = MeasuresSerializer(
        read_only=True, allow_null=True, help_text="Of the finished file, after encoding."
    )
    tags = serializers.DictField(child=serializers.CharField(), read_only=True)

    def get_target_name(self, made: FinishedFile) -> str | None:
        """Of the target as it was."""
        return made.target["name"] if made.target else None


class DeliverySerializer(FinishedFileSerializer[Delivery]):
    """A finished file of a run."""

    class Meta:
        model = Delivery
        fields = (*FINISHED_FIELDS, "offset_lu")
        read_only_fields = fields


class CoverSerializer(serializers.Serializer[None]):
    """A kept picture."""

    cover = serializers.CharField(help_text="Hash to name it by.")
