"""Beds over HTTP."""

from __future__ import annotations

from typing import Any

from django.http import FileResponse, HttpResponseBase, StreamingHttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import mixins, status, viewsets
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from zesty_core.bed.settings import BedSettings
from zesty_core.signal import Span
from zesty_server.beds.models import Bed
from zesty_server.beds.serializers import BedSerializer, LaidSerializer, LayBedSerializer
from zesty_server.beds.services import delete_bed, delivered_mix, heard, keep_bed, laid
from zesty_server.config.negotiation import AnyContent
from zesty_server.config.raw_body import RawParser
from zesty_server.jobs.models import JobState
from zesty_server.recipes.serializers import SettingSerializer
from zesty_server.runs.models import Run


class BedViewSet(mixins.ListModelMixin, mixins.DestroyModelMixin, viewsets.GenericViewSet[Bed]):
    """List and delete."""

    queryset = Bed.objects.all()
    serializer_class = BedSerializer

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
        bed = keep_bed(request._request, request.query_params.get("name", ""))
        return Response(BedSerializer(bed).data, status.HTTP_201_CREATED)


class BedSettingsView(APIView):
    """How a bed can lie under a voice."""

    @extend_schema(responses=SettingSerializer(many=True))
    def get(self, request: Request) -> Response:
        """The declaration of its settings."""
        return Response(BedSettings.describe())


class LaidView(APIView):
    """A result over a bed: to hear, or as a file."""

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


class MixView(APIView):
    """The whole mix."""

    content_negotiation_class = AnyContent

    @extend_schema(request=LayBedSerializer, responses={(200, "audio/*"): OpenApiTypes.BINARY})
    def post(self, request: Request, pk: str) -> HttpResponseBase:
        """As a file, fitted to the recording's target."""
        data, run = _wanted(request), _finished(pk)
        path = delivered_mix(run, laid(run, data["bed"], data["params"]))
        name = f"{run.result_name.removesuffix('.wav')} over {data['bed'].name}{path.suffix}"
        return FileResponse(path.open("rb"), as_attachment=True, filename=name)


def _wanted(request: Request) -> dict[str, Any]:
    wanted = LayBedSerializer(data=request.data)
    wanted.is_valid(raise_exception=True)
    return dict(wanted.validated_data)


def _finished(pk: str) -> Run:
    runs = Run.objects.filter(state=JobState.DONE).select_related("recording__target")
    return get_object_or_404(runs, pk=pk)
