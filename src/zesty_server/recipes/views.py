"""Recipes over HTTP."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.utils.text import slugify
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import mixins, status, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.serializers import BaseSerializer
from rest_framework.views import APIView

from zesty_core.chain.recipe import MOST_BYTES, write_recipe
from zesty_core.foundation.errors import BadRecipe
from zesty_server.http.query import checked_id
from zesty_server.recipes.models import Recipe, SavedSettings
from zesty_server.recipes.selectors import recipes, step_types
from zesty_server.recipes.serializers import (
    GoBackSerializer,
    RecipeSerializer,
    SavedSettingsSerializer,
    StepTypeSerializer,
)
from zesty_server.recipes.services import (
    change_recipe,
    copy_recipe,
    document_of,
    go_back,
    import_recipes,
    packed_recipes,
    save_recipe,
    save_settings,
)

MOST_ARCHIVE_BYTES = 20_000_000


class RecipeViewSet(viewsets.ModelViewSet[Recipe]):
    """List, save, change, delete, import, export."""

    queryset = Recipe.objects.none()
    serializer_class = RecipeSerializer
    http_method_names = ("get", "post", "patch", "delete")

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """Every row that the person may see."""
        return recipes()

    def perform_create(self, serializer: BaseSerializer[Recipe]) -> None:
        """Save a chain as a recipe."""
        data = serializer.validated_data
        serializer.instance = save_recipe(
            data["name"], data.get("description", ""), data["steps"], data.get("group", "")
        )

    def perform_update(self, serializer: BaseSerializer[Recipe]) -> None:
        """Rename or change."""
        assert serializer.instance is not None
        change_recipe(serializer.instance, serializer.validated_data)

    @extend_schema(
        request=OpenApiTypes.OBJECT, responses={201: RecipeSerializer(many=True)}, filters=False
    )
    @action(detail=False, methods=["post"], url_path="import", pagination_class=None)
    def import_document(self, request: Request) -> Response:
        """Keep the recipe of a posted document, or those of an archive of documents."""
        name = request.query_params.get("name", "The document")
        data = request._request.read(MOST_ARCHIVE_BYTES + 1)
        limit = MOST_ARCHIVE_BYTES if data.startswith(b"PK") else MOST_BYTES
        if len(data) > limit:
            raise BadRecipe(f"{name} is larger than a recipe can be ({limit // 1_000_000} MB)")
        made = import_recipes(data, name)
        return Response(RecipeSerializer(made, many=True).data, status.HTTP_201_CREATED)

    @extend_schema(
        responses={(200, "application/zip"): OpenApiTypes.BINARY},
        parameters=[OpenApiParameter("id", OpenApiTypes.UUID, many=True)],
    )
    @action(detail=False, methods=["get"])
    def archive(self, request: Request) -> HttpResponse:
        """Documents of chosen recipes, or of all, in one archive."""
        chosen = recipes()
        ids = [i for text in request.query_params.getlist("id") for i in text.split(",") if i]
        if ids:
            chosen = chosen.filter(pk__in=[checked_id(i, "id") for i in ids])
        response = HttpResponse(packed_recipes(chosen), content_type="application/zip")
        response["Content-Disposition"] = 'attachment; filename="recipes.zip"'
        return response

    @extend_schema(request=GoBackSerializer, responses=RecipeSerializer)
    @action(detail=True, methods=["post"], url_path="go-back")
    def go_back(self, request: Request, pk: str | None = None) -> Response:
        """Make an earlier version's steps those of a new one."""
        wanted = GoBackSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        recipe = go_back(self.get_object(), wanted.validated_data["version"])
        return Response(self.get_serializer(recipe).data)

    @extend_schema(request=None, responses={201: RecipeSerializer})
    @action(detail=True, methods=["post"])
    def copy(self, request: Request, pk: str | None = None) -> Response:
        """Another one with the same steps."""
        made = copy_recipe(self.get_object())
        return Response(self.get_serializer(made).data, status.HTTP_201_CREATED)

    @extend_schema(responses=OpenApiTypes.OBJECT)
    @action(detail=True, methods=["get"])
    def document(self, request: Request, pk: str | None = None) -> HttpResponse:
        """The recipe as an open document to download."""
        recipe = self.get_object()
        response = HttpResponse(write_recipe(document_of(recipe)), content_type="application/json")
        name = slugify(recipe.name) or "recipe"
        response["Content-Disposition"] = f'attachment; filename="{name}.zesty.json"'
        return response


class SavedSettingsViewSet(
    mixins.ListModelMixin,
    mixins.CreateModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet[SavedSettings],
):
    """Settings of single steps: list, save, delete."""

    queryset = SavedSettings.objects.none()
    serializer_class = SavedSettingsSerializer

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """Every row that the person may see."""
        return SavedSettings.objects.all()

    def perform_create(self, serializer: BaseSerializer[SavedSettings]) -> None:
        """Save, or replace those of the same name."""
        data = serializer.validated_data
        serializer.instance = save_settings(data["type"], data["name"], data["params"])


class StepTypesView(APIView):
    """What steps there are."""

    @extend_schema(responses=StepTypeSerializer(many=True))
    def get(self, request: Request) -> Response:
        """Every step type with its settings."""
        data: list[dict[str, Any]] = step_types()
        return Response(data)
