"""Beds over HTTP."""

from __future__ import annotations

from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import mixins, status, viewsets
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from zesty_core.bed.settings import BedSettings
from zesty_server.beds.models import Bed
from zesty_server.beds.serializers import (
    BedSerializer,
)
from zesty_server.beds.services import delete_bed, keep_bed
from zesty_server.http.raw_body import RawParser, content_length
from zesty_server.recipes.serializers import SettingSerializer


class BedViewSet(mixins.ListModelMixin, mixins.DestroyModelMixin, viewsets.GenericViewSet[Bed]):
    """List and delete."""

    queryset = Bed.objects.none()
    serializer_class = BedSerializer

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """Every row that the person may see."""
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
        """Store what was sent."""
        name = request.query_params.get("name", "")
        bed = keep_bed(request._request, name, content_length(request))
        return Response(BedSerializer(bed).data, status.HTTP_201_CREATED)


class BedSettingsView(APIView):
    """How a bed can lie under a voice."""

    @extend_schema(responses=SettingSerializer(many=True))
    def get(self, request: Request) -> Response:
        """The declaration of its settings."""
        return Response(BedSettings.describe())
