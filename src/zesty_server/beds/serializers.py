"""Beds as JSON."""

from __future__ import annotations

from rest_framework import serializers

from zesty_server.beds.models import Bed


class BedSerializer(serializers.ModelSerializer[Bed]):
    """A bed."""

    class Meta:
        model = Bed
        fields = ("id", "name", "duration_s", "created_at")
        read_only_fields = fields


class LayBedSerializer(serializers.Serializer[None]):
    """Which bed, how, and which stretch of the mix to hear."""

    bed = serializers.PrimaryKeyRelatedField(queryset=Bed.objects.all())
    params = serializers.DictField(required=False, default=dict)
    start_s = serializers.FloatField(min_value=0, required=False, default=0.0)
    end_s = serializers.FloatField(min_value=0, required=False, default=0.0)


class LaidSerializer(serializers.Serializer[None]):
    """What is told of a mix; voice and mix follow as samples."""

    sample_rate_hz = serializers.IntegerField()
    channels = serializers.IntegerField()
    duration_s = serializers.FloatField()
    step_s = serializers.FloatField()
    distance_db = serializers.ListField(child=serializers.FloatField(allow_null=True))
    bed_gain_db = serializers.ListField(child=serializers.FloatField())
    typical_db = serializers.FloatField(allow_null=True)
    least_db = serializers.FloatField(allow_null=True)
