"""Making a run's delivery."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

from django.conf import settings
from django.utils import timezone

from zesty_core.audio.edits import edit_times
from zesty_core.audio.markers import chapters_of
from zesty_core.audio.reader import AudioFile
from zesty_core.audio.tags import checked_tags
from zesty_core.audio.writer import depth_for
from zesty_core.chain.recipe import Chain, chain_from_json
from zesty_core.delivery.deliver import Also, Delivered, Order, deliver
from zesty_core.delivery.receipt import Origin, receipt_of, receipt_text
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import Source
from zesty_core.measures.report import Measures
from zesty_core.targets.document import FileWish, Target
from zesty_server.deliveries.covers import kept_cover
from zesty_server.deliveries.models import Delivery, FinishedFile
from zesty_server.jobs.attempts import Attempt
from zesty_server.targets.end_pieces import end_piece


def make_delivery(
    delivery: Delivery,
    source: Source,
    file: AudioFile,
    room_tone: RoomTone | None,
    before: Measures | None,
    also: Also,
    attempt: Attempt,
    origin: Origin,
) -> Delivered:
    """Make the finished file and its receipt in the run's folder.

    What is found of the file is set on ``delivery``, which the caller saves once the run has ended.
    """
    order = order_of(delivery, file)

    def beside(delivered: Delivered, staged: Path) -> None:
        receipt = receipt_of(
            delivered,
            staged,
            delivery.file_name,
            origin,
            target=order.target,
            offset_lu=order.offset_lu,
            tags=order.tags,
            made_at=timezone.now(),
        )
        keep_receipt(delivery, receipt)

    return deliver(
        source,
        order,
        delivery.path,
        room_tone=room_tone,
        before=before,
        also=also,
        beside=beside,
        progress=attempt.progress,
        cancelled=attempt.cancelled,
        work_folder=settings.WORK_FOLDER,
    )


def keep_receipt(made: FinishedFile, receipt: Mapping[str, Any]) -> None:
    """Write the receipt beside the file, and what the row tells of it."""
    made.receipt_path.write_text(receipt_text(receipt), encoding="utf-8")
    made.check_of_file = receipt["check"]
    made.measures = receipt["after"]
    made.size_bytes = receipt["file"]["bytes"]
    made.sha256 = receipt["file"]["sha256"]


def order_of(delivery: Delivery, file: AudioFile) -> Order:
    """What is to be made, as the core knows it."""
    wish = FileWish.from_json(delivery.file)
    subtype = depth_for(file.format, wish.encoding().container)
    chain = chain_from_json(delivery.run.chain)
    run = delivery.run
    title = delivery.tags.get("title") or run.recording.name
    return replace(
        ordered(delivery, chain, subtype),
        offset_lu=delivery.offset_lu,
        chapters=tuple(chapters_of(run.markers, edit_times(run), run.duration_s, title)),
        intro=end_piece(delivery.intro),
        outro=end_piece(delivery.outro),
    )


def ordered(made: FinishedFile, chain: Chain, subtype: str) -> Order:
    """What is asked of a file that ``chain`` makes."""
    wish = FileWish.from_json(made.file)
    return Order(
        chain,
        wish.encoding(),
        Target.from_json(made.target) if made.target else None,
        wish.sample_rate_hz,
        wish.channels,
        subtype,
        checked_tags(made.tags),
        kept_cover(made.cover),
    )
