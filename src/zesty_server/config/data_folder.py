"""The folder that everything lies in: made, kept private, and its key kept whole."""

from __future__ import annotations

import os
import secrets
from pathlib import Path

from zesty_core.foundation.errors import BadInput

_KEY_BYTES = 50
#: What is ours in the folder, besides the folder itself; a person may keep other things there.
_OURS = ("media", "work", "static", "secret-key", "zesty*.sqlite3*")
_OTHERS = 0o077


def make_folders(*folders: Path) -> None:
    """Make sure that they are there and can be written to.

    Raises :class:`BadInput` with one sentence where that cannot be.
    """
    for folder in folders:
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except (FileExistsError, NotADirectoryError):
            raise BadInput(
                f"ZESTY_DATA: {folder} is a file; name a folder for the data, or move it away"
            ) from None
        except OSError as fault:
            raise BadInput(f"ZESTY_DATA: {folder} cannot be made ({fault.strerror})") from None
    probe = folders[0] / f".probe-{os.getpid()}"
    try:
        probe.touch()
        probe.unlink()
    except OSError as fault:
        raise BadInput(
            f"ZESTY_DATA: {folders[0]} cannot be written to ({fault.strerror}); change its rights "
            "or name another folder"
        ) from None


def secret_key(path: Path) -> str:
    """The key that sessions are signed with; made on the first start, and anew where it is broken."""
    try:
        key = path.read_text(encoding="ascii").strip()
    except (OSError, UnicodeDecodeError):
        key = ""
    if len(key) < _KEY_BYTES:
        key = secrets.token_urlsafe(_KEY_BYTES)
        part = path.with_name(f"{path.name}.{os.getpid()}.part")
        try:
            part.write_text(key, encoding="ascii")
            part.chmod(0o600)
            part.replace(path)
        except OSError as fault:
            raise BadInput(f"{path}: cannot be written ({fault.strerror})") from None
    return key


def keep_private(data: Path) -> bool:
    """Take the rights of others away from the data folder and what is ours in it.

    Returns whether there were any. A folder that is private already is not searched: nothing under
    it can be reached.
    """
    if not data.stat().st_mode & _OTHERS:
        return False
    for pattern in _OURS:
        for path in data.glob(pattern):
            _take_rights(path)
    _take_rights(data, deep=False)
    return True


def _take_rights(path: Path, *, deep: bool = True) -> None:
    if path.is_symlink():
        return
    if deep and path.is_dir():
        for inner in path.iterdir():
            _take_rights(inner)
    path.chmod(path.stat().st_mode & 0o7777 & ~_OTHERS)
