"""``zesty recipe check|show|list``."""

from __future__ import annotations

import argparse

from zesty_core.foundation.errors import BadInput
from zesty_core.scripting import load_recipe, recipes


def recipe_command(options: argparse.Namespace) -> int:
    """Check a recipe document, tell what it does, or list those that come with the product."""
    if options.action == "list":
        for recipe in recipes().values():
            print(f"{recipe.name}: {recipe.description}")
        return 0
    if options.file is None:
        raise BadInput(f"recipe {options.action}: name a recipe document or a recipe", path="file")
    recipe = load_recipe(options.file)
    if options.action == "check":
        print(f"{recipe.name}: {len(recipe.chain)} steps, nothing wrong")
        return 0
    print(recipe.name)
    if recipe.description:
        print(recipe.description)
    for index, entry in enumerate(recipe.chain, start=1):
        off = "" if entry.enabled else " (off)"
        print(f"{index}. {entry.step.label}{off}: {entry.step.sentence()}")
    return 0
