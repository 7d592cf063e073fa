"""Space on the disk over HTTP."""

from __future__ import annotations

from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from zesty_core.foundation.errors import BadInput
from zesty_server.recordings.selectors import put_away_recordings
from zesty_server.space.selectors import space
from zesty_server.space.serializers import PutAwaySerializer, SpaceSerializer
from zesty_server.space.services import REMOVALS


class SpaceView(APIView):
    """How much room everything takes."""

    @extend_schema(responses=SpaceSerializer)
    def get(self, request: Request) -> Response:
        """By kind."""
        return Response(SpaceSerializer(space()).data)


class RemovalView(APIView):
    """Making room."""

    @extend_schema(
        parameters=[
            OpenApiParameter("what", OpenApiTypes.STR, OpenApiParameter.PATH, enum=list(REMOVALS))
        ],
        responses={200: SpaceSerializer},
    )
    def delete(self, request: Request, what: str) -> Response:
        """Remove it for good; answers what is left."""
        if what not in REMOVALS:
            raise BadInput(f"what: must be one of {', '.join(REMOVALS)}, got {what}", path="what")
        REMOVALS[what]()
        return Response(SpaceSerializer(space()).data)


class PutAwayView(APIView):
    """Deleted recordings."""

    @extend_schema(responses=PutAwaySerializer(many=True))
    def get(self, request: Request) -> Response:
        """Those that can be taken back, last deleted first."""
        found = put_away_recordings().prefetch_related("runs").order_by("-deleted_at")
        return Response(PutAwaySerializer(found, many=True).data)
