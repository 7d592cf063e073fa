"""Blind picks over HTTP."""

from __future__ import annotations

from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_view
from rest_framework import mixins, viewsets
from rest_framework.serializers import BaseSerializer

from zesty_core.signal import Span
from zesty_server.comparisons.models import BlindPick
from zesty_server.comparisons.serializers import BlindPickSerializer
from zesty_server.comparisons.services import keep_blind_pick
from zesty_server.config.query import queried_id


@extend_schema_view(
    list=extend_schema(parameters=[OpenApiParameter("recording", OpenApiTypes.UUID)])
)
class BlindPickViewSet(
    mixins.ListModelMixin,
    mixins.CreateModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet[BlindPick],
):
    """Keep, list (newest first), delete."""

    queryset = BlindPick.objects.all()
    serializer_class = BlindPickSerializer

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """All, or those of a recording."""
        picks = BlindPick.objects.filter(recording__deleted_at=None)
        recording = queried_id(self.request, "recording")
        return picks.filter(recording_id=recording) if recording else picks

    def perform_create(self, serializer: BaseSerializer[BlindPick]) -> None:
        """Keep the picks."""
        data = serializer.validated_data
        serializer.instance = keep_blind_pick(
            data["recording"],
            data["chain"],
            Span(data["start_s"], data["end_s"]),
            data["picked_after"],
        )
