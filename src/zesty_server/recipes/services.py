"""Saving, changing and importing recipes."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from zesty_core.errors import BadInput, BadSetting
from zesty_core.recipe import Recipe as Document
from zesty_core.recipe import chain_as_json, chain_from_json, parse_recipe
from zesty_server.recipes.models import Recipe, SavedSettings


def checked_steps(steps: object) -> list[dict[str, Any]]:
    """Steps with every setting written out; raises :class:`BadSetting` with the fault's path."""
    return chain_as_json(chain_from_json(steps))


@transaction.atomic
def save_recipe(name: str, description: str, steps: object) -> Recipe:
    """Keep a chain under a new name."""
    document = Document(_free_name(name), chain_from_json(steps), description)
    return Recipe.objects.create(
        name=document.name, description=document.description, steps=chain_as_json(document.chain)
    )


@transaction.atomic
def change_recipe(recipe: Recipe, changes: dict[str, Any]) -> Recipe:
    """Rename, describe anew, or replace the steps, which makes a new version."""
    if "name" in changes:
        recipe.name = _free_name(changes["name"], besides=recipe)
    if "description" in changes:
        recipe.description = changes["description"]
    if "steps" in changes:
        steps = checked_steps(changes["steps"])
        recipe.version += steps != recipe.steps
        recipe.steps = steps
    recipe.save()
    return recipe


def import_recipe(text: bytes, file_name: str) -> Recipe:
    """Keep the recipe of a document; a number is added to a name that is taken."""
    document = parse_recipe(text, file_name)
    name, count = document.name, 1
    while Recipe.objects.filter(name=name).exists():
        count += 1
        name = f"{document.name} {count}"
    return save_recipe(name, document.description, chain_as_json(document.chain))


def document_of(recipe: Recipe) -> Document:
    """The open document of a recipe."""
    return Document(recipe.name, chain_from_json(recipe.steps), recipe.description)


def save_settings(type_: str, name: str, params: object) -> SavedSettings:
    """Keep a step's settings under a name; settings of that name are replaced.

    Raises :class:`BadInput` without a name, :class:`BadSetting` for settings that do not fit.
    """
    if not name.strip():
        raise BadInput("name: must not be empty", path="name")
    (step,) = checked_steps([{"type": type_, "params": params}])
    saved, _ = SavedSettings.objects.update_or_create(
        type=type_, name=name.strip()[:200], defaults={"params": step["params"]}
    )
    return saved


def _free_name(name: str, besides: Recipe | None = None) -> str:
    name = name.strip()
    if not name:
        raise BadSetting("name", name, "must not be empty")
    taken = Recipe.objects.filter(name=name)
    if besides is not None:
        taken = taken.exclude(pk=besides.pk)
    if taken.exists():
        raise BadSetting("name", name, "is taken by another recipe")
    return name
