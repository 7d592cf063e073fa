"""Saving, changing and importing recipes."""

from __future__ import annotations

import io
import lzma
import zipfile
import zlib
from collections.abc import Iterable
from typing import Any

from django.db import transaction
from django.utils.text import slugify

from zesty_core.chain.recipe import (
    MOST_BYTES,
    chain_as_json,
    chain_from_json,
    parse_recipe,
    write_recipe,
)
from zesty_core.chain.recipe import Recipe as Document
from zesty_core.delivery.names import without_collisions
from zesty_core.foundation.errors import BadInput, BadRecipe, BadSetting
from zesty_core.starters import starter_documents
from zesty_server.recipes.models import Recipe, RecipeVersion, SavedSettings

STARTER_GROUP = "To start from"
_ZIP_START = b"PK"
#: What the archive module raises for entries that are cut off, encrypted or packed in unknown ways.
_DAMAGED = (RuntimeError, NotImplementedError, EOFError, OSError, ValueError, OverflowError)
_MOST_IN_ARCHIVE = 500


def checked_steps(steps: object) -> list[dict[str, Any]]:
    """Steps with every setting written out; raises :class:`BadSetting` with the fault's path."""
    return chain_as_json(chain_from_json(steps))


@transaction.atomic
def save_recipe(name: str, description: str, steps: object, group: str = "") -> Recipe:
    """Keep a chain under a new name."""
    document = Document(_free_name(name), chain_from_json(steps), description)
    recipe = Recipe.objects.create(
        name=document.name,
        description=document.description,
        group=group.strip(),
        steps=chain_as_json(document.chain),
    )
    _keep_version(recipe)
    return recipe


@transaction.atomic
def change_recipe(recipe: Recipe, changes: dict[str, Any]) -> Recipe:
    """Rename, describe anew, or replace the steps, which makes a new version."""
    if "name" in changes:
        recipe.name = _free_name(changes["name"], besides=recipe)
    if "description" in changes:
        recipe.description = changes["description"]
    if "group" in changes:
        recipe.group = changes["group"].strip()
    if "steps" in changes:
        steps = checked_steps(changes["steps"])
        recipe.version += steps != recipe.steps
        recipe.steps = steps
    recipe.save()
    _keep_version(recipe)
    return recipe


def go_back(recipe: Recipe, version: int) -> Recipe:
    """Make the steps of an earlier version those of a new one; nothing is lost."""
    kept = recipe.versions.filter(version=version).first()
    if kept is None:
        raise BadInput(f"{recipe.name}: has no version {version}", path="version")
    return change_recipe(recipe, {"steps": kept.steps})


def copy_recipe(recipe: Recipe) -> Recipe:
    """Another recipe with the same steps, under a free name."""
    name = _numbered(f"{recipe.name} copy")
    return save_recipe(name, recipe.description, recipe.steps, recipe.group)


def _keep_version(recipe: Recipe) -> None:
    RecipeVersion.objects.get_or_create(
        recipe=recipe, version=recipe.version, defaults={"steps": recipe.steps}
    )


def import_recipe(text: bytes, file_name: str, group: str = "") -> Recipe:
    """Keep the recipe of a document; a number is added to a name that is taken."""
    document = parse_recipe(text, file_name)
    steps = chain_as_json(document.chain)
    return save_recipe(_numbered(document.name), document.description, steps, group)


@transaction.atomic
def import_recipes(data: bytes, file_name: str) -> list[Recipe]:
    """Keep the recipe of a document, or all of an archive; all are kept, or none."""
    if not data.startswith(_ZIP_START):
        return [import_recipe(data, file_name)]
    made = []
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            documents = [i for i in archive.infolist() if i.filename.endswith(".json")]
            if not 0 < len(documents) <= _MOST_IN_ARCHIVE:
                raise BadRecipe(
                    f"{file_name}: must hold 1 to {_MOST_IN_ARCHIVE} recipes, got {len(documents)}"
                )
            for info in documents:
                if info.file_size > MOST_BYTES:
                    raise BadRecipe(f"{info.filename} is larger than a recipe can be (1 MB)")
                try:
                    made.append(import_recipe(archive.read(info), info.filename))
                except BadSetting as fault:
                    raise fault.under(f"{info.filename}: ") from None
    except (zipfile.BadZipFile, zlib.error, lzma.LZMAError, *_DAMAGED) as fault:
        raise BadRecipe(f"{file_name} is no archive that can be read: {fault}") from None
    return made


def packed_recipes(chosen: Iterable[Recipe]) -> bytes:
    """Documents of recipes in one archive, under names made from theirs."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        found = list(chosen)
        names = without_collisions([slugify(r.name) or "recipe" for r in found])
        for recipe, name in zip(found, names, strict=True):
            archive.writestr(f"{name}.zesty.json", write_recipe(document_of(recipe)))
    return out.getvalue()


def add_starters(**_: object) -> None:
    """Put the recipes to start from into a library that has none."""
    if not Recipe.objects.exists():
        for name, text in starter_documents():
            import_recipe(text, name, STARTER_GROUP)


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


def _numbered(name: str) -> str:
    """The name, with a number where it is taken."""
    free, count = name, 1
    while Recipe.objects.filter(name=free).exists():
        count += 1
        free = f"{name} {count}"
    return free


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
