"""Blind picks over HTTP."""

from __future__ import annotations

from django.http import HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404
from django.utils.http import content_disposition_header
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_view
from rest_framework import mixins, viewsets
from rest_framework.request import Request
from rest_framework.serializers import BaseSerializer
from rest_framework.views import APIView

from zesty_core.compare.client_page import versions_page
from zesty_core.foundation.signal import Span
from zesty_server.comparisons.models import BlindPick, Tasting
from zesty_server.comparisons.serializers import (
    BlindPickSerializer,
    SidesSerializer,
    SidesToldSerializer,
    TastingSerializer,
    VersionsSerializer,
)
from zesty_server.comparisons.services import keep_blind_pick, keep_tasting
from zesty_server.comparisons.sides import sides_of, versions_of
from zesty_server.http.negotiation import AnyContent
from zesty_server.http.query import queried_id
from zesty_server.recordings.selectors import recordings


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

    queryset = BlindPick.objects.none()
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


@extend_schema_view(
    list=extend_schema(parameters=[OpenApiParameter("recording", OpenApiTypes.UUID)])
)
class TastingViewSet(
    mixins.ListModelMixin,
    mixins.CreateModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet[Tasting],
):
    """Keep, list (newest first), delete."""

    queryset = Tasting.objects.none()
    serializer_class = TastingSerializer

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """All, or those of a recording."""
        found = Tasting.objects.filter(recording__deleted_at=None)
        recording = queried_id(self.request, "recording")
        return found.filter(recording_id=recording) if recording else found

    def perform_create(self, serializer: BaseSerializer[Tasting]) -> None:
        """Store what was sent."""
        data = serializer.validated_data
        serializer.instance = keep_tasting(
            data["recording"],
            Span(data["start_s"], data["end_s"]),
            data["blind"],
            data["entries"],
        )


class SidesView(APIView):
    """Sounds of one passage side by side."""

    content_negotiation_class = AnyContent

    @extend_schema(
        request=SidesSerializer,
        responses={
            (200, "application/octet-stream"): OpenApiTypes.BINARY,
            (200, "application/json"): SidesToldSerializer,
        },
    )
    def post(self, request: Request, pk: str) -> StreamingHttpResponse:
        """Head, then for each side its figures and its samples, each behind its length."""
        wanted = SidesSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        data = wanted.validated_data
        recording = get_object_or_404(recordings(), pk=pk)
        parts = sides_of(recording, Span(data["start_s"], data["end_s"]), data["sides"])
        return StreamingHttpResponse(parts, content_type="application/octet-stream")


class VersionsPageView(APIView):
    """Several versions of a passage as one page to show a client."""

    content_negotiation_class = AnyContent

    @extend_schema(request=VersionsSerializer, responses={(200, "text/html"): OpenApiTypes.BINARY})
    def post(self, request: Request, pk: str) -> HttpResponse:
        """The page, to download."""
        wanted = VersionsSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        data = wanted.validated_data
        recording = get_object_or_404(recordings(), pk=pk)
        span = Span(data["start_s"], data["end_s"])
        versions = versions_of(recording, span, data["sides"], data["names"])
        answer = HttpResponse(versions_page(recording.name, versions), content_type="text/html")
        answer["Content-Disposition"] = content_disposition_header(
            True, f"{recording.name}, {len(versions)} versions.html"
        )
        return answer
