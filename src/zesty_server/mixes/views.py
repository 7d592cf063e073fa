"""Mixes over HTTP."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from django.http import StreamingHttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import mixins, status, viewsets
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from zesty_core.foundation.signal import Span
from zesty_server.deliveries.models import FinishedFile
from zesty_server.deliveries.views import FinishedFileMixin, there
from zesty_server.http.negotiation import AnyContent
from zesty_server.http.query import queried_id
from zesty_server.jobs.models import JobState
from zesty_server.mixes.laying import laid, stretch_parts
from zesty_server.mixes.models import Mix
from zesty_server.mixes.serializers import (
    LaidSerializer,
    LayBedSerializer,
    MixSerializer,
    StartMixSerializer,
)
from zesty_server.mixes.services import delete_mix, start_mix
from zesty_server.runs.models import Run


class LaidView(APIView):
    """A result over a bed, to hear."""

    content_negotiation_class = AnyContent

    @extend_schema(
        request=LayBedSerializer,
        responses={
            (200, "application/octet-stream"): OpenApiTypes.BINARY,
            (200, "application/json"): LaidSerializer,
        },
    )
    def post(self, request: Request, pk: str) -> StreamingHttpResponse:
        """Figures, then voice and mix of a stretch, each behind its length."""
        data = _wanted(request)
        one = laid(_finished(pk), data["bed"], data["params"])
        parts = stretch_parts(one, Span(data["start_s"], data["end_s"]))
        return StreamingHttpResponse(parts, content_type="application/octet-stream")


class MixViewSet(
    FinishedFileMixin,
    mixins.ListModelMixin,
    mixins.RetrieveModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet[Mix],
):
    """Order a mix, follow it, fetch it with its receipt."""

    queryset = Mix.objects.none()
    serializer_class = MixSerializer
    content_negotiation_class = AnyContent

    def get_queryset(self) -> QuerySet[Mix]:
        """All, or those of one recording."""
        found = Mix.objects.select_related("run__recording")
        recording = queried_id(self.request, "recording")
        return found.filter(run__recording_id=recording) if recording else found

    @extend_schema(parameters=[OpenApiParameter("recording", OpenApiTypes.UUID)])
    def list(self, request: Request) -> Response:
        """Mixes, newest first."""
        return super().list(request)

    @extend_schema(request=StartMixSerializer, responses={201: MixSerializer})
    def create(self, request: Request) -> Response:
        """Lay a finished result over a bed."""
        wanted = StartMixSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        mix = start_mix(wanted.order())
        return Response(MixSerializer(Mix.objects.get(pk=mix.pk)).data, status.HTTP_201_CREATED)

    def finished(self) -> FinishedFile:
        """The mix's file."""
        made = self.get_object()
        return there(made, made.state)

    def perform_destroy(self, instance: Mix) -> None:
        """Stop it, and remove it with its file."""
        delete_mix(instance)


def _wanted(request: Request) -> dict[str, Any]:
    wanted = LayBedSerializer(data=request.data)
    wanted.is_valid(raise_exception=True)
    return dict(wanted.validated_data)


def _finished(pk: str) -> Run:
    runs = Run.objects.filter(state=JobState.DONE).select_related("recording")
    return get_object_or_404(runs, pk=pk)
