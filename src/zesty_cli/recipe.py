"""``zesty recipe check|show``."""

from __future__ import annotations

import argparse
from pathlib import Path

from zesty_core.recipe import read_recipe


def recipe_command(options: argparse.Namespace) -> int:
    """Check a recipe document, or tell what it does."""
    recipe = read_recipe(Path(options.file))
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
