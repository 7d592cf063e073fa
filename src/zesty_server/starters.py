"""What a library begins with: recipes and targets to start from."""

from __future__ import annotations

from zesty_server.recipes.services import add_starters as add_recipes
from zesty_server.targets.services import add_starters as add_targets


def add_starters() -> None:
    """Put them in where there are none."""
    add_recipes()
    add_targets()
