"""Passages over HTTP."""

from __future__ import annotations

from django.http import StreamingHttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from zesty_core.foundation.signal import Span
from zesty_server.http.negotiation import AnyContent
from zesty_server.passages.serializers import (
    PassageRequestSerializer,
    PassageStepsSerializer,
    PassageToldSerializer,
    SettledSerializer,
)
from zesty_server.passages.services import Superseded, hear_passage, settle
from zesty_server.recordings.selectors import recordings_alone


class PassageView(APIView):
    """A few seconds of a recording through a chain that is being set."""

    content_negotiation_class = AnyContent

    @extend_schema(
        request=PassageRequestSerializer,
        responses={
            (200, "application/octet-stream"): OpenApiTypes.BINARY,
            (200, "application/json"): PassageToldSerializer,
        },
    )
    def post(self, request: Request, pk: str) -> StreamingHttpResponse:
        """Head, samples and tail, each behind its length; see ``services.hear_passage``."""
        wanted = PassageRequestSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        data = wanted.validated_data
        parts = hear_passage(
            get_object_or_404(recordings_alone(), pk=pk),
            data["steps"],
            Span(data["start_s"], data["end_s"]),
            with_before=data["with_before"],
            opened=data["opened"],
        )
        return StreamingHttpResponse(parts, content_type="application/octet-stream")


class SettleView(APIView):
    """Levels of the whole recording through a chain, without keeping a result."""

    @extend_schema(request=PassageStepsSerializer, responses={200: SettledSerializer, 204: None})
    def post(self, request: Request, pk: str) -> Response:
        """Settle; an older request for the same recording is given up and answered with nothing."""
        wanted = PassageStepsSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        recording = get_object_or_404(recordings_alone(), pk=pk)
        try:
            points = settle(recording, wanted.validated_data["steps"])
        except Superseded:
            return Response(status=status.HTTP_204_NO_CONTENT)
        return Response(SettledSerializer({"points": points}).data)
