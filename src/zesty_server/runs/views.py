"""Runs over HTTP."""

from __future__ import annotations

from django.http import FileResponse, HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import mixins, status, viewsets
from rest_framework.decorators import action
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response

from zesty_server.config.ranges import ranged_file
from zesty_server.jobs.models import JobState
from zesty_server.recordings.selectors import overview_of
from zesty_server.recordings.serializers import OverviewQuerySerializer, OverviewSerializer
from zesty_server.recordings.views import AnyContent
from zesty_server.runs.models import Run
from zesty_server.runs.selectors import runs
from zesty_server.runs.serializers import RunSerializer, StartRunSerializer
from zesty_server.runs.services import cancel_run, retry_run, start_run


class RunViewSet(mixins.ListModelMixin, mixins.RetrieveModelMixin, viewsets.GenericViewSet[Run]):
    """Start, follow, stop; hear and fetch the result."""

    queryset = Run.objects.none()
    serializer_class = RunSerializer
    content_negotiation_class = AnyContent

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """All, or those of one recording."""
        found = runs()
        recording = self.request.query_params.get("recording")
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
        run = start_run(wanted.validated_data["recording"])
        return Response(RunSerializer(runs().get(pk=run.pk)).data, status.HTTP_201_CREATED)

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

    @extend_schema(parameters=[OverviewQuerySerializer], responses=OverviewSerializer)
    @action(detail=True, methods=["get"])
    def overview(self, request: Request, pk: str | None = None) -> Response:
        """Waveform of a stretch of the result."""
        query = OverviewQuerySerializer(data=request.query_params)
        query.is_valid(raise_exception=True)
        run, wanted = self._finished(), query.validated_data
        recording = run.recording
        return Response(
            overview_of(
                run.overview_path,
                recording.sample_rate_hz,
                run.length_samples,
                wanted["start_s"],
                wanted.get("end_s"),
                wanted["bins"],
            )
        )

    @extend_schema(responses={(200, "audio/flac"): OpenApiTypes.BINARY})
    @action(detail=True, methods=["get", "head"])
    def pair(self, request: Request, pk: str | None = None) -> HttpResponseBase:
        """Before and after as channels of one file."""
        return ranged_file(request._request, self._finished().pair_path, "audio/flac")

    @extend_schema(responses={(200, "audio/wav"): OpenApiTypes.BINARY})
    @action(detail=True, methods=["get"])
    def result(self, request: Request, pk: str | None = None) -> HttpResponseBase:
        """The finished file."""
        run = self._finished()
        return FileResponse(
            run.result_path.open("rb"), as_attachment=True, filename=run.result_name
        )

    def _finished(self) -> Run:
        run = self.get_object()
        if run.state != JobState.DONE:
            raise NotFound("This run has no result.")
        return run
