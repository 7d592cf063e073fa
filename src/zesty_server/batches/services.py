"""Starting and stopping batches, and packing their results."""

from __future__ import annotations

import shutil
from collections.abc import Iterator, Sequence

from django.db import transaction

from zesty_core.errors import BadInput
from zesty_server.batches.models import Batch
from zesty_server.batches.packing import zip_stream
from zesty_server.jobs.models import JobState
from zesty_server.recipes.models import Recipe
from zesty_server.recordings.models import Recording
from zesty_server.runs.services import cancel_run, start_run


@transaction.atomic
def start_batch(name: str, recipe: Recipe, recordings: Sequence[Recording]) -> Batch:
    """Queue a run of the recipe for each recording. All are queued, or none."""
    if not recordings:
        raise BadInput("recordings: choose at least one", path="recordings")
    if not recipe.steps:
        raise BadInput(f"{recipe.name}: the recipe has no step", path="recipe")
    batch = Batch.objects.create(
        name=name.strip() or recipe.name, recipe_name=recipe.name, recipe_version=recipe.version
    )
    for recording in recordings:
        start_run(recording, recipe, batch)
    return batch


def cancel_batch(batch: Batch) -> None:
    """Stop everything of it that has not ended."""
    for run in batch.runs.filter(state__in=(JobState.WAITING, JobState.RUNNING)):
        cancel_run(run)


def delete_batch(batch: Batch) -> None:
    """Remove it with its results."""
    cancel_batch(batch)
    folders = [run.folder for run in batch.runs.all()]
    batch.delete()
    for folder in folders:
        shutil.rmtree(folder, ignore_errors=True)


def packed_results(batch: Batch) -> Iterator[bytes]:
    """All finished files in one archive, streamed."""
    done = batch.runs.filter(state=JobState.DONE).select_related("recording").order_by("created_at")
    entries, taken = [], set()
    for run in done:
        name, count = run.result_name, 1
        while name in taken:
            count += 1
            name = f"{run.result_name.removesuffix('.wav')} {count}.wav"
        taken.add(name)
        entries.append((name, run.result_path))
    if not entries:
        raise BadInput("No file of this batch is finished yet")
    return zip_stream(entries)
