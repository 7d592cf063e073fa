"""Endings of names that sound files go by."""

from __future__ import annotations

from pathlib import Path

from zesty_core.audio.encoding import CONTAINERS

_ENDINGS = {*CONTAINERS, ".aif", ".aiff", ".m4a", ".mp4", ".oga", ".w64", ".rf64"}


def looks_like_sound(path: Path) -> bool:
    """Whether a file in a folder is meant as sound, by its name; hidden ones are not."""
    return path.suffix.lower() in _ENDINGS and not path.name.startswith(".")
