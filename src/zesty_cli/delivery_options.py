"""What the arguments say about finished files: target, kind of file, cover."""

from __future__ import annotations

import argparse
from pathlib import Path

from zesty_core.audio.tags import Cover
from zesty_core.delivery.end_pieces import EndPiece
from zesty_core.foundation.errors import BadInput
from zesty_core.targets.document import FileWish, Target, read_target
from zesty_core.targets.starters import STARTERS, starter


def named_target(name: str) -> Target:
    """A starter target by its name, or a document."""
    known = starter(name)
    if known:
        return known
    if Path(name).suffix == ".json" or Path(name).exists():
        return read_target(Path(name))
    names = ", ".join(f'"{t.name}"' for t in STARTERS)
    raise BadInput(
        f'--target: must be a target document or one of {names}, got "{name}"', path="target"
    )


def file_wish(options: argparse.Namespace, target: Target | None, ending: str | None) -> FileWish:
    """The target's kind of file, changed by what the arguments say; that is what is judged then."""
    wish = target.file if target else FileWish()
    container = ending.upper() if ending else wish.container or "WAV"
    same = container == (wish.container or "WAV")
    return FileWish(
        container,
        options.rate or wish.sample_rate_hz,
        options.channels or wish.channels,
        options.depth or (wish.depth if same else None),
        options.bitrate or (wish.bitrate_kbps if same else None),
        options.vbr or (wish.variable and same),
    )


def cover_of(name: str | None) -> Cover | None:
    """The picture in this file."""
    if name is None:
        return None
    try:
        return Cover.checked(Path(name).read_bytes(), Path(name).name)
    except OSError as fault:
        raise BadInput(f"--cover: {name}: {fault.strerror}", path="cover") from None


def end_pieces(options: argparse.Namespace) -> tuple[EndPiece | None, EndPiece | None]:
    """Intro and outro that the arguments name."""
    intro, outro = (
        EndPiece.checked(Path(name), Path(name).name, options.overlap, options.piece_level)
        if name
        else None
        for name in (options.intro, options.outro)
    )
    return intro, outro
