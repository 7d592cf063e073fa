"""One file of a folder: everything from opening it to its receipt, in a form that can be sent to
another process."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from zesty_core.audio.edits import FileEdits, checked_cuts, edited, one_side
from zesty_core.audio.encoding import Encoding
from zesty_core.audio.ends import Ends
from zesty_core.audio.reader import AudioFile
from zesty_core.audio.tags import Cover, Tags
from zesty_core.audio.writer import depth_for
from zesty_core.chain.recipe import Recipe, chain_as_json
from zesty_core.chain.runner import Progress
from zesty_core.delivery.deliver import Delivered, Order, deliver
from zesty_core.delivery.end_pieces import EndPiece
from zesty_core.delivery.ends_for import ends_for, fill_tone
from zesty_core.delivery.receipt import (
    Origin,
    mark_of,
    providers_of,
    receipt_of,
    receipt_page,
    receipt_text,
)
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import Source
from zesty_core.measures.stream import measure
from zesty_core.targets.document import Target


@dataclass(frozen=True)
class FileJob:
    """What is to be done to one file, and where it goes."""

    path: Path
    folder: Path
    name: str
    recipe: Recipe
    encoding: Encoding
    target: Target | None = None
    rate_hz: int | None = None
    channels: int | None = None
    mono: str = ""
    tags: Tags = field(default_factory=dict)
    cover: Cover | None = None
    room_tone: RoomTone | None = None
    offset_lu: float = 0.0
    intro: EndPiece | None = None
    outro: EndPiece | None = None
    #: Hash of the recording's bytes.
    sha256: str = ""

    @property
    def ending(self) -> str:
        """Ending of the file's name."""
        return f".{self.encoding.container.lower()}"

    @property
    def mark(self) -> str:
        """Stands for the recording and everything that is done to it."""
        tone = self.room_tone
        pieces = {"intro": self.intro, "outro": self.outro}
        provided = providers_of(self.recipe.chain)
        # Named only where there are some: what was delivered without stays as it is.
        return mark_of(
            {name: piece.mark() for name, piece in pieces.items() if piece}
            | ({"provided_steps": provided} if provided else {})
            | {
                "recording": self.sha256,
                "chain": chain_as_json(self.recipe.chain),
                "target": self.target.as_json() if self.target else None,
                "encoding": [
                    self.encoding.container,
                    self.encoding.depth,
                    self.encoding.bitrate_kbps,
                    self.encoding.variable,
                ],
                "rate_hz": self.rate_hz,
                "channels": self.channels,
                "mono": self.mono,
                "tags": self.tags,
                "cover": self.cover.sha256 if self.cover else None,
                "room_tone": tone.mark if tone else None,
                "offset_lu": self.offset_lu,
            }
        )


def deliver_file(
    job: FileJob,
    progress: Callable[[Progress], None] = lambda progress: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> dict[str, Any]:
    """Deliver the file and write its receipt beside it; gives the receipt.

    Raises :class:`zesty_core.foundation.errors.ZestyError`; nothing is left behind then.
    """
    file = AudioFile(job.path)
    edits, source, tone = _edited(job, file)
    order = Order(
        job.recipe.chain,
        job.encoding,
        job.target,
        job.rate_hz,
        job.channels,
        depth_for(file.format, job.encoding.container),
        job.tags,
        job.cover,
        job.offset_lu,
        intro=job.intro,
        outro=job.outro,
    )
    out = job.folder / f"{job.name}{job.ending}"
    origin = Origin(job.path.name, job.sha256, file.info, job.recipe.name, None, edits.as_json())
    receipts: list[dict[str, Any]] = []

    def beside(delivered: Delivered, staged: Path) -> None:
        """The receipt is there before its file: what has no file is made again, never twice."""
        receipt = receipt_of(
            delivered,
            staged,
            out.name,
            origin,
            target=job.target,
            offset_lu=job.offset_lu,
            tags=job.tags,
            mark=job.mark,
            made_at=datetime.now(UTC),
        )
        write_receipt(receipt, out)
        receipts.append(receipt)

    deliver(
        source,
        order,
        out,
        room_tone=tone,
        beside=beside,
        progress=progress,
        cancelled=cancelled,
        work_folder=job.folder,
    )
    return receipts[0]


def write_receipt(receipt: dict[str, Any], out: Path) -> None:
    """Both forms beside a finished file."""
    for path, text in (
        (receipt_path(out), receipt_text(receipt)),
        (receipt_path(out).with_suffix(".html"), receipt_page(receipt)),
    ):
        part = path.with_name(f".{path.name}.part")
        part.write_text(text, encoding="utf-8")
        os.replace(part, path)


def receipt_path(out: Path) -> Path:
    """Where the receipt of a finished file lies."""
    return out.with_name(f"{out.name}.receipt.json")


def _edited(job: FileJob, file: AudioFile) -> tuple[FileEdits, Source, RoomTone | None]:
    """The recording with the ends the target wants, and its room tone."""
    source, tone = one_side(file, job.mono), job.room_tone
    edits = FileEdits(mono=job.mono)
    target = job.target
    if target is None or not {"head_s", "tail_s"} & set(target.bounds):
        return edits, source, tone
    measures = measure(source.blocks(), source.info)
    duration_s = file.info.duration_s
    ends = ends_for(target, measures.as_json(), Ends([], 0.0, 0.0, duration_s))
    cuts = checked_cuts(ends.cuts, duration_s)
    edits = replace(edits, cuts=cuts, pad_start_s=ends.pad_start_s, pad_end_s=ends.pad_end_s)
    # Times of the recording mean nothing after edits, so the sound itself is handed on.
    tone = fill_tone(source, tone, measures.found_room_tone)
    return edits, edited(file, edits, tone), tone
