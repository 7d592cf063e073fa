"""Starting, pausing and stopping batches, and packing their results."""

from __future__ import annotations

import json
import shutil
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from django.db import transaction
from django.utils import timezone

from zesty_core.audio.tags import checked_tags
from zesty_core.delivery.level_set import SET_LEVELS, offsets_lu
from zesty_core.delivery.names import (
    DEFAULT_PATTERN,
    checked_pattern,
    file_name,
    filled_text,
    without_collisions,
)
from zesty_core.delivery.receipt import receipt_page
from zesty_core.foundation.errors import BadInput, BadSetting
from zesty_core.targets.document import FileWish
from zesty_core.targets.document import Target as Document
from zesty_server.batches.models import Batch
from zesty_server.batches.packing import Entry, zip_stream
from zesty_server.deliveries.covers import keep_cover, kept_cover
from zesty_server.deliveries.models import Delivery
from zesty_server.jobs.models import JobState
from zesty_server.recipes.models import Recipe
from zesty_server.recordings.models import Recording
from zesty_server.runs.services import cancel_run, queue_run, start_run
from zesty_server.targets.end_pieces import end_piece
from zesty_server.targets.models import Target

_MISSING = """These files are gone from the data folder and are not in this archive.
Run the batch again to make them anew.

{}
"""


@dataclass(frozen=True)
class Order:
    """What a batch is to do. Without a recipe each recording's own chain runs."""

    recordings: Sequence[Recording]
    name: str = ""
    recipe: Recipe | None = None
    target: Target | None = None
    #: Kind of file; what it leaves out is the target's.
    file: Mapping[str, Any] = field(default_factory=dict)
    name_pattern: str = DEFAULT_PATTERN
    set_level: str = "alike"
    tags: Mapping[str, str] = field(default_factory=dict)
    cover: str = ""
    #: By recording: ``name`` and ``tags`` of its own.
    own: Mapping[str, Mapping[str, Any]] = field(default_factory=dict)
    #: Tags and cover that a recording came with stay, where nothing else is asked for.
    keep_tags: bool = True

    def document(self) -> Document | None:
        """The target with the kind of file that was asked for."""
        if self.target is None:
            return None
        return replace(self.target.document, file=self.wish())

    def wish(self) -> FileWish:
        """The kind of file: the target's, changed by what was asked for."""
        base = self.target.document.file if self.target else FileWish()
        return base.changed(self.file)


@dataclass(frozen=True)
class Planned:
    """A delivery as it will be made: name without its ending, tags, distance from the set's level."""

    recording: Recording
    name: str
    tags: dict[str, str]
    offset_lu: float


def plan(order: Order, into: Batch | None = None) -> list[Planned]:
    """Names with collisions resolved, tags filled in, levels; raises with the fault's path.

    Names and numbers go on behind those of the batch ``into``.
    """
    if not order.recordings:
        raise BadInput("recordings: choose at least one", path="recordings")
    if order.set_level not in SET_LEVELS:
        raise BadSetting("set_level", order.set_level, f"must be one of {', '.join(SET_LEVELS)}")
    checked_pattern(order.name_pattern)
    common = checked_tags(dict(order.tags))
    names, tags = [], []
    taken = (
        set(Delivery.objects.filter(run__batch=into).values_list("name", flat=True))
        if into
        else set()
    )
    for number, recording in enumerate(order.recordings, len(taken) + 1):
        values = _values(order, recording, number)
        own = order.own.get(str(recording.pk), {})
        pattern = own.get("name") or order.name_pattern
        names.append(file_name(pattern, values))
        own_tags = checked_tags(dict(own.get("tags") or {}))
        tags.append({k: filled_text(v, values) for k, v in {**common, **own_tags}.items()})
        if order.keep_tags:
            tags[-1] = {**recording.tags, **tags[-1]}
    loudness = [(r.measures or {}).get("integrated_lufs") for r in order.recordings]
    keeps = order.set_level == "keep" and order.target is not None
    offsets = offsets_lu(loudness) if keeps else [0.0] * len(names)
    free = without_collisions(names, taken)
    rows = zip(order.recordings, free, tags, offsets, strict=True)
    return [Planned(*row) for row in rows]


@transaction.atomic
def start_batch(order: Order, into: Batch | None = None) -> Batch:
    """Queue a run with a delivery for each recording. All are queued, or none.

    ``into`` is a batch of the same recipe and target that goes on with them.
    """
    planned = plan(order, into)
    recipe, document, wish = order.recipe, order.document(), order.wish()
    if recipe and not recipe.steps:
        raise BadInput(f"{recipe.name}: the recipe has no step", path="recipe")
    kept_cover(order.cover)
    if order.target:
        end_piece(order.target.intro)
        end_piece(order.target.outro)
    usual = recipe.name if recipe else order.recordings[0].name
    batch = into or Batch.objects.create(
        name=order.name.strip() or usual,
        recipe=recipe,
        recipe_name=recipe.name if recipe else "",
        recipe_version=recipe.version if recipe else None,
        target=document.as_json() if document else None,
        name_pattern=order.name_pattern,
        set_level=order.set_level,
        ordered_target=order.target,
        file={k: v for k, v in order.file.items() if v is not None},
        tags=dict(order.tags),
        cover=order.cover,
    )
    for entry in planned:
        moved = document.moved(entry.offset_lu) if document else None
        run = start_run(entry.recording, recipe, batch.pk, moved, to_mono=wish.channels == 1)
        Delivery.objects.create(
            run=run,
            name=entry.name,
            target=document.as_json() if document else None,
            file=wish.as_json(),
            tags=entry.tags,
            cover=order.cover or (_own_cover(entry.recording) if order.keep_tags else ""),
            offset_lu=entry.offset_lu,
            intro=order.target.intro if order.target else None,
            outro=order.target.outro if order.target else None,
        )
    return batch


def _own_cover(recording: Recording) -> str:
    """Hash of the picture that the recording's file came with, kept for deliveries."""
    path = recording.cover_path
    return keep_cover(path.read_bytes(), recording.name) if path.exists() else ""


def pause_batch(batch: Batch) -> None:
    """Begin no further file; what is at work is finished."""
    Batch.objects.filter(pk=batch.pk).update(paused=True)


def go_on(batch: Batch) -> None:
    """Take a paused batch up again."""
    Batch.objects.filter(pk=batch.pk).update(paused=False)
    for run in batch.runs.filter(state=JobState.WAITING):
        queue_run(run)


def cancel_batch(batch: Batch) -> None:
    """Stop everything of it that has not ended."""
    for run in batch.runs.filter(state__in=(JobState.WAITING, JobState.RUNNING)):
        cancel_run(run)


def delete_batch(batch: Batch) -> None:
    """Remove it with its results."""
    cancel_batch(batch)
    folders = [run.home for run in batch.runs.all()]
    batch.delete()
    for folder in folders:
        shutil.rmtree(folder, ignore_errors=True)


def packed_results(batch: Batch) -> Iterator[bytes]:
    """All finished files and their receipts in one archive, streamed."""
    rows = batch.runs.filter(state=JobState.DONE).select_related("recording", "delivery")
    entries: list[Entry] = []
    missing: list[str] = []
    for run in rows.order_by("created_at"):
        delivery = getattr(run, "delivery", None)
        name = delivery.file_name if delivery else run.result_name
        if not (delivery.path if delivery else run.result_path).exists():
            missing.append(name)
            continue
        if delivery is None:  # of a batch from before there were deliveries
            entries.append((name, run.result_path))
            continue
        if not delivery.receipt_path.exists():
            entries.append((name, delivery.path))
            missing.append(f"receipts/{name}.receipt.json")
            continue
        receipt = delivery.receipt_path.read_bytes()
        entries += [
            (name, delivery.path),
            (f"receipts/{name}.receipt.json", receipt),
            (f"receipts/{name}.receipt.html", _page(receipt)),
        ]
    if missing:
        entries.append(("missing.txt", _MISSING.format("\n".join(missing)).encode()))
    if not entries:
        raise BadInput("No file of this batch is finished yet")
    return zip_stream(entries)


def _page(receipt: bytes) -> bytes:
    return receipt_page(json.loads(receipt)).encode()


def _values(order: Order, recording: Recording, number: int) -> dict[str, object]:
    """What the fields of names stand for."""
    return {
        "title": recording.name,
        "show": recording.group,
        "label": recording.label,
        "take": recording.take if recording.take is not None else number,
        "recipe": order.recipe.name if order.recipe else "",
        "target": order.target.name if order.target else "",
        "date": f"{timezone.localdate():%Y-%m-%d}",
        "number": number,
        "original": recording.original_name.rpartition(".")[0] or recording.original_name,
    }
