"""Names of files as clients send them."""

from __future__ import annotations

from pathlib import PurePosixPath

from zesty_core.foundation.errors import BadInput


def display_name(given: str) -> str:
    """Last part of a name that may look like a path, without control characters."""
    last = PurePosixPath(given.replace("\\", "/")).name
    name = "".join(c for c in last if c.isprintable()).strip()
    if name in ("", ".", ".."):
        raise BadInput("name: the file must have a name", path="name")
    return name
