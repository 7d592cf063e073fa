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
