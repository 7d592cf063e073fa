"""Keeping music beds."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from zesty_core.audio.reader import AudioFile
from zesty_core.bed.plan import LONGEST_BED_S
from zesty_core.foundation.errors import BadInput
from zesty_server.beds.models import Bed
from zesty_server.beds.signals import bed_removal
from zesty_server.http.file_names import display_name

MOST_BYTES = 300_000_000
_CHUNK_BYTES = 1 << 20


def keep_bed(stream: Any, name: str, size_bytes: int) -> Bed:
    """Keep a piece of music of ``size_bytes``.

    Raises :class:`BadInput` for what is none, too long, or broke off on its way.
    """
    name = display_name(name)
    bed = Bed(name=Path(name).stem[:200], original_name=name[-255:], duration_s=0.0)
    bed.path.parent.mkdir(exist_ok=True)
    try:
        with bed.path.open("wb") as file:
            while data := stream.read(_CHUNK_BYTES):
                file.write(data)
                if file.tell() > MOST_BYTES:
                    raise BadInput(f"{name}: a bed must be at most {MOST_BYTES // 1_000_000} MB")
            if file.tell() != size_bytes:
                raise BadInput(
                    f"{name}: broke off after {file.tell()} of {size_bytes} bytes; send it again"
                )
        bed.duration_s = AudioFile(bed.path, name).info.duration_s
        if bed.duration_s > LONGEST_BED_S:
            raise BadInput(
                f"{name}: a bed must last at most {LONGEST_BED_S:g} s, got {bed.duration_s:.0f} s"
            )
        bed.save(force_insert=True)
    except BaseException:
        bed.path.unlink(missing_ok=True)
        raise
    return bed


def delete_bed(bed: Bed) -> None:
    """Remove it; mixes that were made stay. Raises :class:`BadInput` for an intro or outro in use."""
    bed_removal.send(Bed, bed=bed)
    path = bed.path
    bed.delete()
    path.unlink(missing_ok=True)


def bed_file(bed: Bed) -> AudioFile:
    """The music itself."""
    if not bed.path.exists():
        raise BadInput(f"{bed.name}: its file is gone; bring it in again", path="bed")
    return AudioFile(bed.path, bed.original_name)
