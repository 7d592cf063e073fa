"""Reading recipes."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet

from zesty_core.chain.recipe import chain_from_json
from zesty_core.steps.registry import STEP_TYPES, provider_of
from zesty_core.steps.starter_settings import starter_settings
from zesty_server.recipes.models import Recipe


def recipes() -> QuerySet[Recipe]:
    """All, by name."""
    return Recipe.objects.all()


def sentences(steps: list[dict[str, Any]]) -> list[str]:
    """What each step that is on does, in plain words."""
    return [entry.step.sentence() for entry in chain_from_json(steps) if entry.enabled]


def step_types() -> list[dict[str, Any]]:
    """Every step type with the declaration of its settings."""
    return [
        {
            "type": step.type,
            "label": step.label,
            "summary": step.summary,
            "settings": step.describe(),
            "starters": starter_settings(step.type),
            "provided_by": provider.as_json() if (provider := provider_of(step.type)) else None,
        }
        for step in STEP_TYPES.values()
    ]
