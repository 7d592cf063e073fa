"""Pictures for deliveries, kept by their hash."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings

from zesty_core.audio.tags import Cover
from zesty_core.errors import BadInput


def keep_cover(data: bytes, name: str) -> str:
    """Keep a picture; gives its hash. Raises :class:`BadInput` for what is none."""
    cover = Cover.checked(data, name)
    path = _path(cover.sha256)
    path.parent.mkdir(exist_ok=True)
    part = path.with_suffix(".part")
    part.write_bytes(data)
    part.replace(path)
    return cover.sha256


def kept_cover(sha256: str) -> Cover | None:
    """A picture kept before; None without a hash."""
    if not sha256:
        return None
    path = _path(sha256)
    if not sha256.isalnum() or not path.exists():
        raise BadInput("cover: the picture is not here any more; choose it again", path="cover")
    return Cover.checked(path.read_bytes(), "cover")


def _path(sha256: str) -> Path:
    return Path(settings.MEDIA_ROOT) / "covers" / sha256
