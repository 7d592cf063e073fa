"""Parts of rows that are kept as JSON."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers


class KeptJsonSerializer(serializers.Serializer[dict[str, Any]]):
    """Describes what lies in a JSON field and hands it on as it lies there.

    Taking it apart field by field was most of the time of a list of some hundred rows.
    """

    def to_representation(self, instance: dict[str, Any]) -> dict[str, Any]:
        """Convert, with what is stored under other names."""
        return instance
