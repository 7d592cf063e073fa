"""Runs over HTTP."""

from __future__ import annotations

from pathlib import Path

from django.http import FileResponse, HttpResponse, HttpResponseBase
from django.utils.http import content_disposition_header
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import mixins, status, viewsets
from rest_framework.decorators import action
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response

from zesty_core.audio.reader import AudioFile
from zesty_core.foundation.signal import Source
from zesty_server.http.negotiation import AnyContent
from zesty_server.http.query import queried_id
from zesty_server.http.ranges import ranged_file
from zesty_server.jobs.models import JobState
from zesty_server.recordings.looking_serializers import SpanQuerySerializer
from zesty_server.recordings.looking_views import LookingMixin
from zesty_server.runs.client_page import client_page_of
from zesty_server.runs.correction import correction_of
from zesty_server.runs.models import Run
from zesty_server.runs.pair import before_of
from zesty_server.runs.selectors import runs
from zesty_server.runs.serializers import (
    CorrectionSerializer,
    RunLabelSerializer,
    RunSerializer,
    StartRunSerializer,
)
from zesty_server.runs.services import cancel_run, fit_to_target, name_run, retry_run, start_run


class RunViewSet(
    LookingMixin,
    mixins.ListModelMixin,
    mixins.RetrieveModelMixin,
    viewsets.GenericViewSet[Run],
):
    """Start, follow, stop; hear and fetch the result."""

    queryset = Run.objects.none()
    serializer_class = RunSerializer
    content_negotiation_class = AnyContent

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """All, or those of one recording."""
        found = runs()
        recording = queried_id(self.request, "recording")
        return found.filter(recording_id=recording) if recording else found

    @extend_schema(parameters=[OpenApiParameter("recording", OpenApiTypes.UUID)])
    def list(self, request: Request) -> Response:
        """Runs, newest first."""
        return super().list(request)

    @extend_schema(request=StartRunSerializer, responses={201: RunSerializer})
    def create(self, request: Request) -> Response:
        """Run the chain of a recording."""
        wanted = StartRunSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        recording = wanted.validated_data["recording"]
        run = fit_to_target(recording) if wanted.validated_data["fit"] else start_run(recording)
        return Response(RunSerializer(runs().get(pk=run.pk)).data, status.HTTP_201_CREATED)

    @extend_schema(request=RunLabelSerializer, responses=RunSerializer)
    def partial_update(self, request: Request, pk: str | None = None) -> Response:
        """Name a result."""
        wanted = RunLabelSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        run = name_run(self.get_object(), wanted.validated_data["label"])
        return Response(RunSerializer(runs().get(pk=run.pk)).data)

    @extend_schema(request=None, responses=RunSerializer)
    @action(detail=True, methods=["post"])
    def cancel(self, request: Request, pk: str | None = None) -> Response:
        """Stop it."""
        run = self.get_object()
        cancel_run(run)
        return Response(RunSerializer(runs().get(pk=run.pk)).data)

    @extend_schema(request=None, responses=RunSerializer)
    @action(detail=True, methods=["post"])
    def retry(self, request: Request, pk: str | None = None) -> Response:
        """Try it again."""
        return Response(RunSerializer(retry_run(self.get_object())).data)

    def sound(self) -> tuple[Source, Path]:
        """The result; with ``side=before`` what went into its chain."""
        run = self._finished()
        if self.request.query_params.get("side") == "before":
            return before_of(run), run.folder / "before.npy"
        return AudioFile(run.result_path, run.result_name), run.overview_path

    @extend_schema(responses={(200, "audio/flac"): OpenApiTypes.BINARY})
    @action(detail=True, methods=["get", "head"])
    def pair(self, request: Request, pk: str | None = None) -> HttpResponseBase:
        """Before and after as channels of one file."""
        return ranged_file(request._request, self._finished().pair_path, "audio/flac")

    @extend_schema(responses=CorrectionSerializer)
    @action(detail=True, methods=["get"])
    def correction(self, request: Request, pk: str | None = None) -> Response:
        """What the chain that was proposed for the recording overdid or left undone here.

        Without words where nothing is to correct, and for a run of any other chain.
        """
        found = correction_of(self._finished())
        steps = [step.as_json() for step in found.proposal.chain] if found and found.words else []
        return Response({"words": found.words if found else (), "steps": steps})

    @extend_schema(responses={(200, "audio/wav"): OpenApiTypes.BINARY})
    @action(detail=True, methods=["get"])
    def result(self, request: Request, pk: str | None = None) -> HttpResponseBase:
        """The finished file."""
        run = self._finished()
        return FileResponse(
            run.result_path.open("rb"),
            as_attachment=True,
            filename=run.result_name,
            content_type="audio/wav",
        )

    @extend_schema(
        parameters=[SpanQuerySerializer],
        responses={(200, "text/html"): OpenApiTypes.STR},
    )
    @action(detail=True, methods=["get"], url_path="client-page")
    def client_page(self, request: Request, pk: str | None = None) -> HttpResponse:
        """Before and after as one page to show a client, of a stretch or of the first minutes."""
        wanted = SpanQuerySerializer(data=request.query_params)
        wanted.is_valid(raise_exception=True)
        start_s, end_s = wanted.validated_data["start_s"], wanted.validated_data.get("end_s")
        run = self._finished()
        text = client_page_of(run, start_s, end_s)
        response = HttpResponse(text, content_type="text/html; charset=utf-8")
        name = f"{run.result_name.removesuffix('.wav')}, before and after.html"
        response.headers["Content-Disposition"] = content_disposition_header(True, name) or ""
        return response

    def _finished(self) -> Run:
        run = self.get_object()
        if run.state != JobState.DONE:
            raise NotFound("This run has no result.")
        return run
