"""Which folders of this machine may be watched."""

from __future__ import annotations

import os
from pathlib import Path

from django.conf import settings

from zesty_core.errors import BadInput

_MOST_LISTED = 200


def checked_place(given: str, field: str) -> Path:
    """The folder, resolved; raises :class:`BadInput` for one that is not to be used.

    Where people sign in, only what lies in the folders of ``ZESTY_WATCHABLE`` is open to them.
    """
    path = Path(given.strip()).expanduser()
    if not given.strip() or not path.is_absolute():
        raise BadInput(
            f"{field}: must be a whole path that begins with /, got {given!r}", path=field
        )
    path = path.resolve()
    if path == settings.DATA or settings.DATA in path.parents:
        raise BadInput(f"{field}: {path} belongs to the program itself; choose another", path=field)
    if settings.ACCOUNTS and not _is_open(path):
        raise BadInput(
            f"{field}: {path} is not among the folders that whoever runs this has opened "
            "(ZESTY_WATCHABLE)",
            path=field,
        )
    return path


def checked_in_folder(given: str) -> Path:
    """A folder that is there and can be read."""
    path = checked_place(given, "folder")
    if not path.is_dir():
        raise BadInput(f"folder: {path} is not there, or is no folder", path="folder")
    if not os.access(path, os.R_OK | os.X_OK):
        raise BadInput(f"folder: {path} cannot be read by the program", path="folder")
    return path


def checked_out_folder(given: str, folder: Path) -> Path:
    """A folder to put finished files into; made if it is not there, never that they came from."""
    path = checked_place(given, "out_folder") if given.strip() else folder / "delivered"
    if path == folder:
        raise BadInput("out_folder: must be another one than the watched folder", path="out_folder")
    try:
        path.mkdir(parents=True, exist_ok=True)
    except OSError as fault:
        raise BadInput(f"out_folder: {path}: {fault.strerror}", path="out_folder") from None
    if not os.access(path, os.W_OK | os.X_OK):
        raise BadInput(f"out_folder: {path} cannot be written to", path="out_folder")
    return path


def folders_under(given: str) -> list[str]:
    """Folders to choose from whose paths begin as what is typed; hidden ones stay hidden."""
    typed = Path(given or "/")
    under = typed if given.endswith("/") or not given else typed.parent
    if not under.is_absolute():
        return []
    try:
        found = [p for p in under.iterdir() if p.is_dir() and not p.name.startswith(".")]
    except OSError:
        return []
    if settings.ACCOUNTS:
        found = [p for p in found if _is_open(p.resolve())]
    return sorted(str(p) for p in found if str(p).startswith(given))[:_MOST_LISTED]


def _is_open(path: Path) -> bool:
    roots = [Path(root).resolve() for root in settings.WATCHABLE]
    return any(path == root or root in path.parents for root in roots)
