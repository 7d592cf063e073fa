"""Making a run's delivery."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import AbstractContextManager
from pathlib import Path
from typing import Any

from django.conf import settings
from django.utils import timezone

from zesty_core.audio.edits import FileEdits
from zesty_core.audio.reader import AudioFile
from zesty_core.audio.tags import checked_tags
from zesty_core.audio.writer import depth_for
from zesty_core.delivery.deliver import Delivered, Order, deliver
from zesty_core.delivery.receipt import Origin, receipt_of, receipt_text
from zesty_core.recipe import chain_from_json
from zesty_core.room_tone import RoomTone
from zesty_core.signal import Block, Source
from zesty_core.targets.document import FileWish, Target
from zesty_server.deliveries.covers import kept_cover
from zesty_server.deliveries.models import Delivery
from zesty_server.jobs.services import Reporter
from zesty_server.runs.models import Run


def make_delivery(
    delivery: Delivery,
    source: Source,
    file: AudioFile,
    room_tone: RoomTone | None,
    also: Callable[[], AbstractContextManager[Callable[[Block], None]]],
    reporter: Reporter,
) -> Delivered:
    """Make the finished file and its receipt in the run's folder."""
    run = delivery.run
    order = order_of(delivery, file)

    def beside(delivered: Delivered, staged: Path) -> None:
        receipt = receipt_of(
            delivered,
            staged,
            delivery.file_name,
            _origin(run, file),
            target=order.target,
            offset_lu=order.offset_lu,
            tags=order.tags,
            made_at=timezone.now(),
        )
        delivery.receipt_path.write_text(receipt_text(receipt), encoding="utf-8")
        delivery.check_of_file = receipt["check"]
        delivery.measures = receipt["after"]
        delivery.size_bytes = receipt["file"]["bytes"]
        delivery.sha256 = receipt["file"]["sha256"]

    delivered = deliver(
        source,
        order,
        delivery.path,
        room_tone=room_tone,
        also=also,
        beside=beside,
        progress=reporter.progress,
        cancelled=reporter.cancelled,
        work_folder=settings.WORK_FOLDER,
    )
    delivery.save()
    return delivered


def order_of(delivery: Delivery, file: AudioFile) -> Order:
    """What is to be made, as the core knows it."""
    wish = FileWish.from_json(delivery.file)
    encoding = wish.encoding()
    return Order(
        chain_from_json(delivery.run.chain),
        encoding,
        Target.from_json(delivery.target) if delivery.target else None,
        wish.sample_rate_hz,
        wish.channels,
        depth_for(file.format, encoding.container),
        checked_tags(delivery.tags),
        kept_cover(delivery.cover),
        delivery.offset_lu,
    )


def _origin(run: Run, file: AudioFile) -> Origin:
    recording = run.recording
    edits: dict[str, Any] = FileEdits(run.cuts, run.mono, run.pad_start_s, run.pad_end_s).as_json()
    return Origin(
        recording.original_name,
        recording.sha256,
        file.info,
        run.recipe_name,
        run.recipe_version,
        edits,
    )
