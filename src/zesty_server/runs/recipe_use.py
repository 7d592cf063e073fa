"""Where a recipe is used: recordings, batches, and the runs of each version."""

from __future__ import annotations

from typing import Any

from django.db.models import Count
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from zesty_server.recipes.models import Recipe
from zesty_server.recipes.serializers import UseSerializer
from zesty_server.runs.models import Run


class RecipeUseView(APIView):
    """A recipe's versions, and where it is used."""

    @extend_schema(responses=UseSerializer)
    def get(self, request: Request, pk: str) -> Response:
        """Its versions, and where it is used."""
        return Response(UseSerializer(where_used(get_object_or_404(Recipe, pk=pk))).data)


def where_used(recipe: Recipe) -> dict[str, Any]:
    """Recordings whose chain came from it, batches that ran it, and its versions with their runs."""
    runs = Run.objects.filter(recipe_name=recipe.name).values("recipe_version")
    counted = {
        row["recipe_version"]: row["count"] for row in runs.annotate(count=Count("pk")).order_by()
    }
    versions = list(recipe.versions.all())
    for version in versions:
        version.runs = counted.get(version.version, 0)  # type: ignore[attr-defined]
    there = recipe.recordings.filter(deleted_at=None)
    return {
        "recordings": [{"id": str(r.pk), "name": r.name} for r in there],
        "batches": [{"id": str(b.pk), "name": b.name} for b in recipe.batches.all()],
        "versions": versions,
    }
