"""Uploads over HTTP."""

from __future__ import annotations

from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import mixins, status, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from zesty_core.foundation.errors import BadInput
from zesty_server.http.raw_body import RawParser
from zesty_server.recordings.selectors import recordings
from zesty_server.uploads.models import Upload
from zesty_server.uploads.serializers import PieceSerializer, UploadSerializer
from zesty_server.uploads.services import add_piece, begin_upload, discard


class UploadViewSet(
    mixins.ListModelMixin,
    mixins.RetrieveModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet[Upload],
):
    """Begin with a file (or find what came in of it), add pieces, ask how far it is, give it up."""

    queryset = Upload.objects.none()
    serializer_class = UploadSerializer
    http_method_names = ("get", "post", "put", "delete")

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """All that are on their way."""
        return Upload.objects.all()

    @extend_schema(request=UploadSerializer, responses={201: UploadSerializer})
    def create(self, request: Request) -> Response:
        """Begin, or go on with what came in before."""
        wanted = UploadSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        upload = begin_upload(**wanted.validated_data)
        return Response(UploadSerializer(upload).data, status.HTTP_201_CREATED)

    @extend_schema(
        request={"application/octet-stream": OpenApiTypes.BINARY},
        responses=PieceSerializer,
        parameters=[OpenApiParameter("offset", int, required=True)],
    )
    @action(detail=True, methods=["put"], parser_classes=[RawParser])
    def piece(self, request: Request, pk: str | None = None) -> Response:
        """Add a piece at ``offset``, which must be how much has come in."""
        upload = self.get_object()
        try:
            offset = int(request.query_params["offset"])
            size = int(request.META.get("CONTENT_LENGTH") or 0)
        except (KeyError, ValueError):
            raise BadInput("offset: must be a number of bytes", path="offset") from None
        made = add_piece(upload, request._request, offset, size)  # type: ignore[arg-type]
        fresh = recordings().get(pk=made.pk) if made else None
        answer = {"received_bytes": offset + size, "recording": fresh}
        return Response(PieceSerializer(answer).data)

    def perform_destroy(self, instance: Upload) -> None:
        """Give it up."""
        discard(instance)
