"""Pictures for deliveries. Each account sees its own."""

from __future__ import annotations

import uuid

from zesty_core.audio.tags import Cover as Picture
from zesty_core.foundation.errors import BadInput
from zesty_server.deliveries.models import Cover


def keep_cover(data: bytes, name: str) -> str:
    """Keep a picture; gives its hash. Raises :class:`BadInput` for what is none."""
    picture = Picture.checked(data, name)
    cover, _ = Cover.objects.get_or_create(sha256=picture.sha256)
    cover.path.parent.mkdir(exist_ok=True)
    part = cover.path.with_name(f"{uuid.uuid4().hex}.part")
    part.write_bytes(data)
    part.replace(cover.path)
    return picture.sha256


def kept_cover(sha256: str) -> Picture | None:
    """A picture kept before; None without a hash."""
    if not sha256:
        return None
    cover = Cover.objects.filter(sha256=sha256).first()
    if cover is None or not cover.path.exists():
        raise BadInput("cover: the picture is not here any more; choose it again", path="cover")
    return Picture.checked(cover.path.read_bytes(), "cover")
