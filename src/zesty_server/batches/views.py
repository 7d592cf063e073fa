"""Batches over HTTP."""

from __future__ import annotations

from collections.abc import Callable

from django.http import StreamingHttpResponse
from django.utils.text import slugify
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, status, viewsets
from rest_framework.decorators import action
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response

from zesty_server.batches.models import Batch
from zesty_server.batches.selectors import batches, whole_batches
from zesty_server.batches.serializers import (
    BatchSerializer,
    PlannedSerializer,
    StartBatchSerializer,
    WholeBatchSerializer,
)
from zesty_server.batches.services import (
    cancel_batch,
    delete_batch,
    go_on,
    packed_results,
    pause_batch,
    plan,
    start_batch,
)
from zesty_server.http.negotiation import AnyContent


class BatchViewSet(
    mixins.ListModelMixin,
    mixins.RetrieveModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet[Batch],
):
    """Start, follow, stop, fetch."""

    queryset = Batch.objects.none()
    serializer_class = BatchSerializer
    content_negotiation_class = AnyContent

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """Every row that the person may see."""
        return batches()

    @extend_schema(responses=WholeBatchSerializer)
    def retrieve(self, request: Request, pk: str | None = None) -> Response:
        """One, with its recordings."""
        batch = get_object_or_404(whole_batches(), pk=pk)
        return Response(WholeBatchSerializer(batch).data)

    @extend_schema(request=StartBatchSerializer, responses={201: BatchSerializer})
    def create(self, request: Request) -> Response:
        """Run a recipe over recordings."""
        wanted = StartBatchSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        batch = start_batch(wanted.order())
        return Response(BatchSerializer(batches().get(pk=batch.pk)).data, status.HTTP_201_CREATED)

    @extend_schema(request=StartBatchSerializer, responses=PlannedSerializer(many=True))
    @action(detail=False, methods=["post"], pagination_class=None)
    def preview(self, request: Request) -> Response:
        """Names, tags and levels as they would be; nothing is queued."""
        wanted = StartBatchSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        order = wanted.order()
        ending = (order.wish().container or "WAV").lower()
        planned = [
            {
                "recording": entry.recording.pk,
                "file_name": f"{entry.name}.{ending}",
                "tags": entry.tags,
                "offset_lu": entry.offset_lu,
            }
            for entry in plan(order)
        ]
        return Response(planned)

    def perform_destroy(self, instance: Batch) -> None:
        """Batch and results."""
        delete_batch(instance)

    @extend_schema(request=None, responses=BatchSerializer)
    @action(detail=True, methods=["post"])
    def cancel(self, request: Request, pk: str | None = None) -> Response:
        """Stop what has not ended."""
        return self._after(cancel_batch)

    @extend_schema(request=None, responses=BatchSerializer)
    @action(detail=True, methods=["post"])
    def pause(self, request: Request, pk: str | None = None) -> Response:
        """Begin no further file."""
        return self._after(pause_batch)

    @extend_schema(request=None, responses=BatchSerializer)
    @action(detail=True, methods=["post"], url_path="go-on")
    def go_on(self, request: Request, pk: str | None = None) -> Response:
        """Take it up again."""
        return self._after(go_on)

    def _after(self, change: Callable[[Batch], None]) -> Response:
        batch = self.get_object()
        change(batch)
        return Response(BatchSerializer(batches().get(pk=batch.pk)).data)

    @extend_schema(responses={(200, "application/zip"): OpenApiTypes.BINARY})
    @action(detail=True, methods=["get"])
    def download(self, request: Request, pk: str | None = None) -> StreamingHttpResponse:
        """All finished files in one archive."""
        batch = self.get_object()
        response = StreamingHttpResponse(packed_results(batch), content_type="application/zip")
        name = slugify(batch.name) or "batch"
        response["Content-Disposition"] = f'attachment; filename="{name}.zip"'
        return response
