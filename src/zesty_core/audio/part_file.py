"""Files come into being whole: written under a temporary name beside the final one, then renamed."""

from __future__ import annotations

import errno
import os
import shutil
from pathlib import Path

_LITTLE_SPACE_BYTES = 1_000_000


def part_path(path: Path) -> Path:
    """Temporary name in the same folder, so that renaming cannot fail half-way."""
    return path.with_name(f".{path.name}.{os.getpid()}.part")


def put_in_place(temporary: Path, path: Path) -> None:
    """Make sure the bytes are on the disk, then give the file its name."""
    with temporary.open("rb+") as written:
        os.fsync(written.fileno())
    temporary.replace(path)


def why_not_written(fault: BaseException | None, folder: Path) -> str:
    """Reason in plain words why a file could not be written to ``folder``."""
    if not folder.is_dir():
        return "its folder does not exist"
    free = shutil.disk_usage(folder).free
    if getattr(fault, "errno", None) == errno.ENOSPC or free < _LITTLE_SPACE_BYTES:
        return f"the disk is full ({free / 1e6:.1f} MB free); make room and run it again"
    if not os.access(folder, os.W_OK):
        return "its folder cannot be written to"
    return "the disk did not take all of it; check free space and limits, then run it again"
