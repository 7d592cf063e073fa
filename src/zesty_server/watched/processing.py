"""One pass over a watched folder: import, start runs, export deliveries (background)."""

from __future__ import annotations

import json
import shutil
import uuid
from pathlib import Path
from typing import Any

from django.conf import settings

from zesty_core.audio.part_file import why_not_written
from zesty_core.chain.runner import Progress
from zesty_core.delivery.names import without_collisions
from zesty_core.delivery.receipt import sha256_of
from zesty_core.foundation.errors import BadInput, Duplicate, UnwritableAudio, ZestyError
from zesty_server.accounts.owning import seen_by
from zesty_server.batches.services import Order, start_batch
from zesty_server.deliveries.models import Delivery
from zesty_server.jobs.attempts import Attempt, work_on
from zesty_server.jobs.models import OPEN_STATES, JobState
from zesty_server.jobs.services import claim
from zesty_server.recordings.models import Recording
from zesty_server.recordings.services import check_size, take_in
from zesty_server.watched.models import FileState, WatchedFile, WatchedFolder
from zesty_server.watched.scanning import files_in, imported_files

_RECEIPT = ".receipt.json"


def execute(folder_id: str) -> None:
    """Run one pass over a folder."""
    job = claim(WatchedFolder, folder_id)
    if job is not None:
        work_on(job, _work)


def _work(watched: WatchedFolder, attempt: Attempt) -> dict[str, Any]:
    with seen_by(watched.owner_id):
        _import_ready(watched, attempt)
        for file in watched.files.filter(state=FileState.MEASURING).order_by("pk"):
            attempt.progress(Progress(0.5, f"starting {file.name}"))
            _guarded(file, _start)
        for file in watched.files.filter(state=FileState.RUNNING).order_by("pk"):
            attempt.progress(Progress(0.8, f"exporting {file.name}"))
            _guarded(file, _export)
    return {}


def _guarded(file: WatchedFile, work: Any) -> None:
    """Store a file's error on its row, so that the others go on."""
    try:
        work(file)
    except ZestyError as fault:
        _end(file, FileState.FAILED, fault.message)


def _end(file: WatchedFile, state: FileState, message: str = "") -> None:
    file.state, file.message = state, message
    file.save(update_fields=["state", "message", "delivered_as"])


def _import_ready(watched: WatchedFolder, attempt: Attempt) -> None:
    imported = imported_files(watched)
    try:
        found = files_in(watched.path)
    except OSError:
        return  # the next scan stores the reason
    for name, (size_bytes, mtime_ns) in found.items():
        is_ready = watched.pending_sizes.get(name) == [size_bytes, mtime_ns]
        if not is_ready or (name, size_bytes, mtime_ns) in imported:
            continue
        attempt.progress(Progress(0.2, f"importing {name}"))
        file = WatchedFile(watched=watched, name=name, size_bytes=size_bytes, mtime_ns=mtime_ns)
        try:
            file.recording = _imported(watched, watched.path / name, size_bytes)
        except ZestyError as fault:
            file.state, file.message = FileState.FAILED, fault.message
        file.save()


def _imported(watched: WatchedFolder, path: Path, size_bytes: int) -> Recording:
    """A recording made from a copy of the file; the existing one where the same file was imported."""
    check_size(path.name, size_bytes, size_bytes)
    part = Path(settings.MEDIA_ROOT) / "uploads" / f"{uuid.uuid4()}.part"
    part.parent.mkdir(parents=True, exist_ok=True)
    try:
        try:
            shutil.copyfile(path, part)
        except OSError as fault:
            raise BadInput(f"{path.name}: cannot be read ({fault.strerror})") from None
        sha256 = sha256_of(part)
        try:
            recording = take_in(part, path.name, part.stat().st_size, sha256)
        except Duplicate:
            return Recording.objects.get(sha256=sha256, deleted_at=None)
    finally:
        part.unlink(missing_ok=True)
    recipe = watched.recipe
    if recipe:
        recording.chain, recording.recipe = recipe.steps, recipe
        recording.recipe_version = recipe.version
    recording.target, recording.run_when_measured = watched.target, False
    recording.save(
        update_fields=["chain", "recipe", "recipe_version", "target", "run_when_measured"]
    )
    return recording


def _start(file: WatchedFile) -> None:
    watched, recording = file.watched, file.recording
    if recording is None:
        raise BadInput(f"{file.name}: its recording was deleted")
    if recording.state in OPEN_STATES:
        return
    if recording.state != JobState.DONE:
        raise BadInput(recording.error or f"{file.name}: could not be measured")
    if watched.recipe is None:
        raise BadInput("The recipe of this folder was deleted; choose another")
    delivered_as = _delivered_earlier(watched, recording)
    if delivered_as:
        file.delivered_as = delivered_as
        _end(file, FileState.DELIVERED)
        return
    order = Order([recording], watched.path.name, watched.recipe, watched.target)
    batch = start_batch(order, watched.batch)
    if watched.batch_id != batch.pk:
        watched.batch = batch
        watched.save(update_fields=["batch"])
    file.run = batch.runs.filter(recording=recording).order_by("-created_at").first()
    file.state = FileState.RUNNING
    file.save(update_fields=["run", "state"])


def _delivered_earlier(watched: WatchedFolder, recording: Recording) -> str | None:
    """Name of a file in the output folder that this recipe and target made of this recording.

    A folder that is watched again therefore does not deliver everything twice.
    """
    recipe, target = watched.recipe, watched.target
    assert recipe is not None
    wanted = {"name": recipe.name, "version": recipe.version}
    document = target.document.as_json() if target else None
    for path in sorted(watched.out_path.glob(f"*{_RECEIPT}")):
        try:
            receipt = json.loads(path.read_text(encoding="utf-8"))
            same_sound = receipt["recording"]["sha256"] == recording.sha256
            same_order = receipt["recipe"] == wanted and receipt["target"] == document
        except (OSError, ValueError, KeyError, TypeError):
            continue
        made = path.with_name(path.name.removesuffix(_RECEIPT))
        if same_sound and same_order and made.exists():
            return made.name
    return None


def _export(file: WatchedFile) -> None:
    run = file.run
    if run is None:
        raise BadInput(f"{file.name}: its run was deleted")
    if run.state in OPEN_STATES:
        return
    if run.state != JobState.DONE:
        raise BadInput(run.error or f"{file.name}: its run was stopped")
    delivery: Delivery = run.delivery
    file.delivered_as = _copy_out(delivery, file.watched.out_path)
    missed = [rule["label"] for rule in delivery.check_of_file if rule["is_met"] is not True]
    _end(file, FileState.DELIVERED, f"misses the target: {', '.join(missed)}" if missed else "")


def _copy_out(delivery: Delivery, folder: Path) -> str:
    """Copy the finished file and its receipt into the folder, under a free name."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        taken = {p.stem for p in folder.iterdir() if p.suffix == f".{delivery.ending}"}
        [name] = without_collisions([delivery.name], taken)
        final = folder / f"{name}.{delivery.ending}"
        # The receipt goes first, so that every file has one.
        for source, path in (
            (delivery.receipt_path, final.with_name(f"{final.name}{_RECEIPT}")),
            (delivery.path, final),
        ):
            part = path.with_name(f".{uuid.uuid4().hex}.part")
            try:
                shutil.copyfile(source, part)
                part.replace(path)
            finally:
                part.unlink(missing_ok=True)
    except OSError as fault:
        reason = why_not_written(fault, folder)
        raise UnwritableAudio(delivery.file_name, reason) from None
    return final.name
