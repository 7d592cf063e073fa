"""Deliveries as JSON."""

from __future__ import annotations

from rest_framework import serializers

from zesty_server.deliveries.models import Delivery
from zesty_server.recordings.serializers import MeasuresSerializer
from zesty_server.targets.serializers import FileWishSerializer, RuleSerializer


class DeliverySerializer(serializers.ModelSerializer[Delivery]):
    """A finished file and how it was judged."""

    file_name = serializers.CharField(read_only=True)
    file = FileWishSerializer(read_only=True)
    target_name = serializers.SerializerMethodField()
    rules = RuleSerializer(source="check_of_file", many=True, read_only=True)
    measures = MeasuresSerializer(
        read_only=True, allow_null=True, help_text="Of the finished file, after encoding."
    )
    tags = serializers.DictField(child=serializers.CharField(), read_only=True)

    class Meta:
        model = Delivery
        fields = (
            "id",
            "name",
            "file_name",
            "file",
            "target_name",
            "tags",
            "offset_lu",
            "rules",
            "measures",
            "size_bytes",
            "sha256",
        )
        read_only_fields = fields

    def get_target_name(self, delivery: Delivery) -> str | None:
        """Of the target as it was."""
        return delivery.target["name"] if delivery.target else None


class CoverSerializer(serializers.Serializer[None]):
    """A kept picture."""

    cover = serializers.CharField(help_text="Hash to name it by.")
