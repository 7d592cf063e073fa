"""Beds over HTTP."""

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

from zesty_core.bed.settings import BedSettings
from zesty_core.foundation.signal import Span
from zesty_server.beds.mixes import delete_mix, start_mix
from zesty_server.beds.models import Bed, Mix
from zesty_server.beds.serializers import (
    BedSerializer,
    LaidSerializer,
    LayBedSerializer,
    MixSerializer,
    StartMixSerializer,
)
from zesty_server.beds.services import delete_bed, heard, keep_bed, laid
from zesty_server.config.negotiation import AnyContent
from zesty_server.config.query import queried_id
from zesty_server.config.raw_body import RawParser, content_length
from zesty_server.deliveries.models import FinishedFile
from zesty_server.deliveries.views import FinishedFileMixin, there
from zesty_server.jobs.models import JobState
from zesty_server.recipes.serializers import SettingSerializer
from zesty_server.runs.models import Run


class BedViewSet(mixins.ListModelMixin, mixins.DestroyModelMixin, viewsets.GenericViewSet[Bed]):
    """List and delete."""

    queryset = Bed.objects.none()
    serializer_class = BedSerializer

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """All."""
        return Bed.objects.all()

    def perform_destroy(self, instance: Bed) -> None:
        """Row and file."""
        delete_bed(instance)


class BedUploadView(APIView):
    """Takes in a piece of music."""

    parser_classes = (RawParser,)

    @extend_schema(
        request={"application/octet-stream": OpenApiTypes.BINARY},
        responses={201: BedSerializer},
        parameters=[OpenApiParameter("name", str, required=True)],
    )
    def post(self, request: Request) -> Response:
        """Keep it."""
        name = request.query_params.get("name", "")
        bed = keep_bed(request._request, name, content_length(request))
        return Response(BedSerializer(bed).data, status.HTTP_201_CREATED)


class BedSettingsView(APIView):
    """How a bed can lie under a voice."""

    @extend_schema(responses=SettingSerializer(many=True))
    def get(self, request: Request) -> Response:
        """The declaration of its settings."""
        return Response(BedSettings.describe())


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
        """What is told, then voice and mix of a stretch, each behind its length."""
        data = _wanted(request)
        one = laid(_finished(pk), data["bed"], data["params"])
        parts = heard(one, Span(data["start_s"], data["end_s"]))
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
