"""Starting, changing and stopping the watching of folders."""

from __future__ import annotations

from typing import Any

from zesty_core.foundation.errors import BadInput
from zesty_server.jobs.models import JobState
from zesty_server.recipes.models import Recipe
from zesty_server.targets.models import Target
from zesty_server.watched.folder_access import checked_in_folder, checked_out_folder
from zesty_server.watched.models import WatchedFolder


def watch_folder(
    folder: str, recipe: Recipe, target: Target | None = None, out_folder: str = ""
) -> WatchedFolder:
    """Start watching a folder; files that are in it already are processed too.

    Raises :class:`BadInput` for a folder that cannot be used or is watched already, and for a recipe
    without a step.
    """
    path = checked_in_folder(folder)
    out_path = checked_out_folder(out_folder, path)
    for other in WatchedFolder.objects.all():
        if other.path == path:
            raise BadInput(f"folder: {path} is watched already", path="folder")
        if path == other.out_path or out_path == other.path:
            raise BadInput(
                f"folder: {path} and {other.folder} would deliver into each other", path="folder"
            )
    if not recipe.steps:
        raise BadInput(f"{recipe.name}: the recipe has no step", path="recipe")
    return WatchedFolder.objects.create(
        folder=str(path),
        out_folder=str(out_path),
        recipe=recipe,
        target=target,
        state=JobState.DONE,
    )


def change_watched(watched: WatchedFolder, changes: dict[str, Any]) -> WatchedFolder:
    """Pause or resume, or change recipe or target for files imported from now on."""
    fields: list[str] = [name for name in ("paused", "recipe", "target") if name in changes]
    for name in fields:
        setattr(watched, name, changes[name])
    if {"recipe", "target"} & set(fields):
        watched.batch = None
        fields.append("batch")
    watched.save(update_fields=fields)
    return watched


def stop_watching(watched: WatchedFolder) -> None:
    """Stop watching; recordings and finished files stay."""
    watched.delete()
