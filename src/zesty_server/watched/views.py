"""Watched folders over HTTP."""

from __future__ import annotations

from drf_spectacular.utils import extend_schema
from rest_framework import mixins, status, viewsets
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from zesty_server.watched.folder_access import folders_under
from zesty_server.watched.models import WatchedFolder
from zesty_server.watched.serializers import (
    ChangeWatchedSerializer,
    FoldersQuerySerializer,
    FoldersSerializer,
    WatchedFolderSerializer,
    WatchFolderSerializer,
)
from zesty_server.watched.services import change_watched, stop_watching, watch_folder


class WatchedFolderViewSet(
    mixins.ListModelMixin,
    mixins.RetrieveModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet[WatchedFolder],
):
    """Start, pause and stop watching folders."""

    queryset = WatchedFolder.objects.none()
    serializer_class = WatchedFolderSerializer

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """Every row that the person may see."""
        return WatchedFolder.objects.all()

    @extend_schema(request=WatchFolderSerializer, responses={201: WatchedFolderSerializer})
    def create(self, request: Request) -> Response:
        """Start watching a folder."""
        wanted = WatchFolderSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        made = watch_folder(**wanted.validated_data)
        return Response(WatchedFolderSerializer(made).data, status.HTTP_201_CREATED)

    @extend_schema(request=ChangeWatchedSerializer, responses=WatchedFolderSerializer)
    def partial_update(self, request: Request, pk: str | None = None) -> Response:
        """Pause, resume, change recipe or target."""
        wanted = ChangeWatchedSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        changed = change_watched(self.get_object(), wanted.validated_data)
        return Response(WatchedFolderSerializer(changed).data)

    def perform_destroy(self, instance: WatchedFolder) -> None:
        """Stop watching; what was delivered stays."""
        stop_watching(instance)


class FoldersView(APIView):
    """Completes paths of folders on this machine."""

    @extend_schema(parameters=[FoldersQuerySerializer], responses=FoldersSerializer)
    def get(self, request: Request) -> Response:
        """Those whose paths begin so."""
        query = FoldersQuerySerializer(data=request.query_params)
        query.is_valid(raise_exception=True)
        return Response({"folders": folders_under(query.validated_data["under"])})
