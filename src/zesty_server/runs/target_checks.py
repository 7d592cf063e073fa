"""A run's result, or a recording as it came, judged by a target."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from zesty_core.targets.check import check_measures
from zesty_server.http.query import queried_id
from zesty_server.recordings.models import Recording
from zesty_server.recordings.selectors import shown_measures
from zesty_server.runs.models import Run
from zesty_server.targets.models import Target
from zesty_server.targets.serializers import RuleSerializer


class TargetCheckView(APIView):
    """Judges measures by a target."""

    @extend_schema(
        parameters=[
            OpenApiParameter("run", OpenApiTypes.UUID),
            OpenApiParameter("recording", OpenApiTypes.UUID),
        ],
        responses=RuleSerializer(many=True),
    )
    def get(self, request: Request, pk: str) -> Response:
        """Judge what a run made, or a recording as it came. The kind of file is judged at delivery."""
        target = get_object_or_404(Target, pk=pk).document
        run_id, recording_id = queried_id(request, "run"), queried_id(request, "recording")
        if run_id:
            found = Run.objects.filter(pk=run_id).values_list("after", flat=True).first()
        else:
            found = _measures_of(recording_id) if recording_id else None
        if found is None:
            raise NotFound("There are no measures to check.")
        return Response([rule.as_json() for rule in check_measures(target, found)])


def _measures_of(recording_id: UUID) -> dict[str, Any] | None:
    found = Recording.objects.filter(pk=recording_id).select_related("room_tone").first()
    return shown_measures(found) if found else None
