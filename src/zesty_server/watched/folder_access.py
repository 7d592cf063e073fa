"""Which folders of this machine may be watched."""

from __future__ import annotations

import os
from pathlib import Path

from django.conf import settings

from zesty_core.foundation.errors import BadInput

_MOST_LISTED = 200


def checked_path(given: str, field: str) -> Path:
    """The resolved path; raises :class:`BadInput` for one that is not allowed.

    With accounts, only folders inside those of ``ZESTY_WATCHABLE`` are allowed.
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
            f"{field}: {path} must lie inside one of the folders that the administrator allows "
            "(ZESTY_WATCHABLE)",
            path=field,
        )
    return path


def checked_in_folder(given: str) -> Path:
    """A folder that is there and can be read."""
    path = checked_path(given, "folder")
    if not path.is_dir():
        raise BadInput(f"folder: {path} is not there, or is no folder", path="folder")
    if not os.access(path, os.R_OK | os.X_OK):
        raise BadInput(f"folder: {path} cannot be read by the program", path="folder")
    return path


def checked_out_folder(given: str, folder: Path) -> Path:
    """The output folder, created if missing; it cannot be the watched folder itself."""
    path = checked_path(given, "out_folder") if given.strip() else folder / "delivered"
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
    """Folders whose paths begin with ``given``, for completion; hidden ones are left out."""
    typed = Path(given or "/")
    under = typed if given.endswith("/") or not given else typed.parent
    if not under.is_absolute():
        return []
    try:
        found = [p for p in under.iterdir() if p.is_dir() and not p.name.startswith(".")]
    except OSError:
        found = []
    if settings.ACCOUNTS:
        # The allowed folders themselves are offered from any beginning of their paths.
        found = [p for p in found if _is_open(p.resolve())] + _roots()
        found = [*dict.fromkeys(found)]
    return sorted(str(p) for p in found if str(p).startswith(given))[:_MOST_LISTED]


def _is_open(path: Path) -> bool:
    return any(path == root or root in path.parents for root in _roots())


def _roots() -> list[Path]:
    return [Path(root).resolve() for root in settings.WATCHABLE]
