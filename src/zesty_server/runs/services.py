"""Starting, doing and stopping runs."""

from __future__ import annotations

import json
import shutil
from collections.abc import Iterator
from contextlib import ExitStack
from typing import Any

import numpy as np
from django.conf import settings
from django.db import transaction

from zesty_core import ENGINE_VERSION
from zesty_core.audio.edits import edited
from zesty_core.audio.writer import AudioWriter, depth_for
from zesty_core.chain import ChainResult, run_chain
from zesty_core.errors import BadInput
from zesty_core.measure.overview import OverviewMaker
from zesty_core.recipe import chain_from_json
from zesty_core.signal import Block
from zesty_server.batches.models import Batch
from zesty_server.jobs.models import Job, JobState
from zesty_server.jobs.services import Reporter, claim, request_cancel, work_on
from zesty_server.recipes.models import Recipe
from zesty_server.recipes.services import checked_steps
from zesty_server.recordings.edits import open_audio
from zesty_server.recordings.models import Recording
from zesty_server.recordings.services import store_overview
from zesty_server.rooms.services import fill_tone_for, room_tone_for, tone_mark
from zesty_server.runs.models import Run


def start_run(
    recording: Recording, recipe: Recipe | None = None, batch: Batch | None = None
) -> Run:
    """Queue a run of the recording's own chain, or of a recipe.

    Raises :class:`BadInput` when the recording is not ready or there is no step to run.
    """
    from zesty_server.runs.tasks import do_run

    if recording.state != JobState.DONE:
        raise BadInput(f"{recording.name}: is not measured yet; wait until its figures are there")
    chain = checked_steps(recipe.steps if recipe else recording.chain)
    if not chain:
        raise BadInput(f"{recording.name}: the chain has no step; add one or apply a recipe")
    named = recipe or recording.recipe
    run = Run.objects.create(
        recording=recording,
        batch=batch,
        chain=chain,
        cuts=recording.cuts,
        mono=recording.mono,
        pad_start_s=recording.pad_start_s,
        pad_end_s=recording.pad_end_s,
        engine_version=ENGINE_VERSION,
        recipe_name=named.name if named else "",
        recipe_version=recipe.version if recipe else recording.recipe_version,
    )
    transaction.on_commit(lambda: do_run.enqueue(str(run.pk)))
    return run


def cancel_run(run: Run) -> None:
    """Stop a run; what it wrote is removed."""
    request_cancel(run)


@transaction.atomic
def retry_run(run: Run) -> Run:
    """Queue a run again that failed or was stopped."""
    from zesty_server.runs.tasks import do_run

    ended = Run.objects.filter(pk=run.pk, state__in=(JobState.FAILED, JobState.CANCELLED))
    if not ended.update(
        state=JobState.WAITING,
        tries=0,
        error="",
        error_code="",
        cancel_requested=False,
        progress=0.0,
        finished_at=None,
    ):
        raise BadInput("Only a run that failed or was stopped can be tried again")
    transaction.on_commit(lambda: do_run.enqueue(str(run.pk)))
    run.refresh_from_db()
    return run


def do(run_id: str) -> None:
    """Do a run (background)."""
    job = claim(Run, run_id)
    if job is None:
        return
    work_on(job, _do)
    job.refresh_from_db()
    if job.state != JobState.DONE:
        assert isinstance(job, Run)
        shutil.rmtree(job.folder, ignore_errors=True)


def _do(job: Job, reporter: Reporter) -> dict[str, Any]:
    assert isinstance(job, Run)
    recording = job.recording
    file = open_audio(recording)
    source = edited(file, job, fill_tone_for(recording))
    chain = chain_from_json(job.chain)
    info = source.info
    subtype = depth_for(file.format, "WAV")
    shutil.rmtree(job.folder, ignore_errors=True)
    job.folder.mkdir(parents=True)
    with ExitStack() as files:
        result_file = files.enter_context(
            AudioWriter(
                job.result_path,
                info.sample_rate_hz,
                info.channels,
                subtype,
                length_samples=info.length_samples,
            )
        )
        pair_file = files.enter_context(
            AudioWriter(job.pair_path, info.sample_rate_hz, 2 * info.channels, "PCM_24")
        )
        overview = OverviewMaker(info.channels)
        before = _Aligned(source.blocks())

        def keep(block: Block) -> None:
            block = block.astype(np.float32, copy=False)
            result_file.write(block)
            pair_file.write(np.concatenate([before.next(block.shape[1]), block]))
            overview.push(block)

        result = run_chain(
            source,
            chain,
            keep,
            room_tone=room_tone_for(recording),
            progress=reporter.progress,
            cancelled=reporter.cancelled,
            work_folder=settings.WORK_FOLDER,
        )
    store_overview(job.overview_path, overview.finish())
    _store_facts(job, result, tone_mark(recording))
    return _fields(result) | {"clipped_samples": result_file.clipped_samples}


def _store_facts(run: Run, result: ChainResult, room_tone: str | None) -> None:
    facts = {index: point.facts for index, point in enumerate(result.points)}
    run.facts_path.write_text(json.dumps({"room_tone": room_tone, "facts": facts}))


def _fields(result: ChainResult) -> dict[str, Any]:
    span = result.room_tone
    return {
        "before": result.before.as_json(),
        "after": result.after.as_json(),
        "points": [p.as_json() for p in result.points],
        "notes": result.notes,
        "room_tone": {
            "source": result.room_tone_source,
            "span": {"start_s": span.start_s, "end_s": span.end_s} if span else None,
        },
    }


class _Aligned:
    """Gives a stream of blocks in pieces of any wanted length."""

    def __init__(self, blocks: Iterator[Block]) -> None:
        self._blocks = blocks
        self._rest: Block | None = None

    def next(self, samples: int) -> Block:
        """The next so many samples."""
        pieces, missing = [], samples
        while missing > 0:
            block = self._rest if self._rest is not None else next(self._blocks)
            pieces.append(block[:, :missing])
            self._rest = block[:, missing:] if block.shape[1] > missing else None
            missing -= pieces[-1].shape[1]
        return np.concatenate(pieces, axis=1)
