"""Targets over HTTP."""

from __future__ import annotations

from dataclasses import asdict

from django.db import transaction
from django.http import JsonResponse
from django.utils.text import slugify
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import status, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from zesty_core.targets.document import BOUNDED, MOST_BYTES
from zesty_server.http.json_body import posted_object
from zesty_server.targets.end_pieces import PLACES, set_end_pieces
from zesty_server.targets.models import Target
from zesty_server.targets.serializers import (
    BoundedSerializer,
    EndPiecesSerializer,
    TargetSerializer,
)
from zesty_server.targets.services import import_target, save_target


class TargetViewSet(viewsets.ModelViewSet[Target]):
    """List, keep, change, delete, import, export."""

    queryset = Target.objects.none()
    serializer_class = TargetSerializer
    http_method_names = ("get", "post", "put", "delete")

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """Every row that the person may see."""
        return Target.objects.all()

    @extend_schema(request=TargetSerializer, responses={201: TargetSerializer})
    def create(self, request: Request) -> Response:
        """Keep a new one."""
        made = _saved(request)
        return Response(TargetSerializer(made).data, status.HTTP_201_CREATED)

    @extend_schema(request=TargetSerializer, responses=TargetSerializer)
    def update(self, request: Request, pk: str | None = None) -> Response:
        """Change one."""
        return Response(TargetSerializer(_saved(request, self.get_object())).data)

    @extend_schema(request=OpenApiTypes.OBJECT, responses={201: TargetSerializer})
    @action(detail=False, methods=["post"], url_path="import")
    def import_document(self, request: Request) -> Response:
        """Keep the target of a posted document."""
        text = request._request.read(MOST_BYTES + 1)
        made = import_target(text, request.query_params.get("name", "The document"))
        return Response(TargetSerializer(made).data, status.HTTP_201_CREATED)

    @extend_schema(responses=OpenApiTypes.OBJECT)
    @action(detail=True, methods=["get"])
    def document(self, request: Request, pk: str | None = None) -> JsonResponse:
        """The target as an open document to download."""
        target = self.get_object()
        response = JsonResponse(target.as_json(), json_dumps_params={"indent": 2})
        name = slugify(target.name) or "target"
        response["Content-Disposition"] = f'attachment; filename="{name}.zesty-target.json"'
        return response


class BoundedView(APIView):
    """What can be bounded."""

    @extend_schema(responses=BoundedSerializer(many=True))
    def get(self, request: Request) -> Response:
        """Every measure a target can bound."""
        return Response([{"name": name, **asdict(b)} for name, b in BOUNDED.items()])


@transaction.atomic
def _saved(request: Request, target: Target | None = None) -> Target:
    """The target as posted, intro and outro included."""
    posted = posted_object(request)
    pieces = EndPiecesSerializer(data={k: posted[k] for k in PLACES if k in posted})
    pieces.is_valid(raise_exception=True)
    made = save_target(_given(request), target)
    return set_end_pieces(made, pieces.validated_data)


def _given(request: Request) -> dict[str, object]:
    """The document's parts of what was posted; the core refuses what does not fit."""
    data = posted_object(request)
    known = ("id", "created_at", "sentences", *PLACES)
    return {k: _without_nulls(v) for k, v in data.items() if k not in known}


def _without_nulls(value: object) -> object:
    if isinstance(value, dict):
        return {k: _without_nulls(v) for k, v in value.items() if v is not None}
    return value
