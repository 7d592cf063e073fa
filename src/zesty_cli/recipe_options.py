"""Arguments of ``zesty recipe``."""

from __future__ import annotations

from typing import Any


def add_recipe_parser(commands: Any) -> None:
    """Declare the command."""
    recipe = commands.add_parser("recipe", help="check, show or list recipes")
    recipe.add_argument("action", choices=("check", "show", "list"))
    recipe.add_argument(
        "file", metavar="NAME|FILE", nargs="?", help="a recipe document, or a recipe by its name"
    )
