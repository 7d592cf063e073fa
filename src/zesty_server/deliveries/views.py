"""Deliveries over HTTP."""

from __future__ import annotations

import json

from django.http import FileResponse, HttpResponse, HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import status, viewsets
from rest_framework.decorators import action
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from zesty_core.delivery.receipt import receipt_page
from zesty_server.deliveries.covers import keep_cover
from zesty_server.deliveries.models import Delivery, FinishedFile
from zesty_server.deliveries.serializers import CoverSerializer, DeliverySerializer
from zesty_server.http.negotiation import AnyContent
from zesty_server.http.raw_body import RawParser
from zesty_server.jobs.models import JobState

_MOST_COVER_BYTES = 6_000_000


class FinishedFileMixin:
    """Addresses of what :meth:`finished` gives, and of its receipt."""

    def finished(self) -> FinishedFile:
        """The file; raises NotFound where there is none."""
        raise NotImplementedError

    @extend_schema(responses={(200, "audio/*"): OpenApiTypes.BINARY})
    @action(detail=True, methods=["get"])
    def file(self, request: Request, pk: str | None = None) -> HttpResponseBase:
        """The finished file."""
        made = self.finished()
        return FileResponse(made.path.open("rb"), as_attachment=True, filename=made.file_name)

    @extend_schema(responses=OpenApiTypes.OBJECT)
    @action(detail=True, methods=["get"])
    def receipt(self, request: Request, pk: str | None = None) -> HttpResponseBase:
        """The receipt as a document."""
        made = self.finished()
        name = f"{made.file_name}.receipt.json"
        return FileResponse(made.receipt_path.open("rb"), as_attachment=True, filename=name)

    @extend_schema(responses={(200, "text/html"): OpenApiTypes.STR})
    @action(detail=True, methods=["get"], url_path="receipt-page")
    def receipt_page(self, request: Request, pk: str | None = None) -> HttpResponseBase:
        """The receipt as a page to read."""
        text = self.finished().receipt_path.read_text(encoding="utf-8")
        return HttpResponse(receipt_page(json.loads(text)))


def there(made: FinishedFile, state: str) -> FinishedFile:
    """The file, when the work on it is done and nobody has taken it away."""
    if state != JobState.DONE or not made.path.exists():
        raise NotFound("This file is not made, or is gone.")
    return made


class DeliveryViewSet(FinishedFileMixin, viewsets.GenericViewSet[Delivery]):
    """Fetch finished files and their receipts."""

    queryset = Delivery.objects.none()
    serializer_class = DeliverySerializer
    content_negotiation_class = AnyContent

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """Every row that the person may see."""
        return Delivery.objects.select_related("run")

    def finished(self) -> FinishedFile:
        """What its run has made."""
        made = self.get_object()
        return there(made, made.run.state)


class CoverView(APIView):
    """Takes in a picture for deliveries."""

    parser_classes = (RawParser,)

    @extend_schema(
        request={"image/*": OpenApiTypes.BINARY},
        responses={201: CoverSerializer},
        parameters=[OpenApiParameter("name", str)],
    )
    def post(self, request: Request) -> Response:
        """Store what was sent."""
        data = request._request.read(_MOST_COVER_BYTES)
        kept = keep_cover(data, request.query_params.get("name", "The picture"))
        return Response({"cover": kept}, status.HTTP_201_CREATED)
