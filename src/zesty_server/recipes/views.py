"""Recipes over HTTP."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.utils.text import slugify
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, status, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.serializers import BaseSerializer
from rest_framework.views import APIView

from zesty_core.errors import BadRecipe
from zesty_core.recipe import MOST_BYTES, write_recipe
from zesty_server.recipes.models import Recipe, SavedSettings
from zesty_server.recipes.selectors import recipes, step_types
from zesty_server.recipes.serializers import (
    RecipeSerializer,
    SavedSettingsSerializer,
    StepTypeSerializer,
)
from zesty_server.recipes.services import (
    change_recipe,
    document_of,
    import_recipe,
    save_recipe,
    save_settings,
)


class RecipeViewSet(viewsets.ModelViewSet[Recipe]):
    """List, save, change, delete, import, export."""

    queryset = Recipe.objects.none()
    serializer_class = RecipeSerializer
    http_method_names = ("get", "post", "patch", "delete")

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """All."""
        return recipes()

    def perform_create(self, serializer: BaseSerializer[Recipe]) -> None:
        """Save a chain as a recipe."""
        data = serializer.validated_data
        serializer.instance = save_recipe(data["name"], data.get("description", ""), data["steps"])

    def perform_update(self, serializer: BaseSerializer[Recipe]) -> None:
        """Rename or change."""
        assert serializer.instance is not None
        change_recipe(serializer.instance, serializer.validated_data)

    @extend_schema(request=OpenApiTypes.OBJECT, responses=RecipeSerializer)
    @action(detail=False, methods=["post"], url_path="import")
    def import_document(self, request: Request) -> Response:
        """Keep the recipe of a posted document."""
        name = request.query_params.get("name", "The document")
        text = request._request.read(MOST_BYTES + 1)
        if len(text) > MOST_BYTES:
            raise BadRecipe(f"{name} is larger than a recipe can be (1 MB)")
        recipe = import_recipe(text, name)
        return Response(self.get_serializer(recipe).data, status.HTTP_201_CREATED)

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

    queryset = SavedSettings.objects.all()
    serializer_class = SavedSettingsSerializer

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
