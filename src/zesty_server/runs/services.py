"""Starting, doing and stopping runs."""

from __future__ import annotations

import json
import shutil
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from typing import Any
from uuid import UUID

import numpy as np
from django.conf import settings
from django.db import transaction

from zesty_core import ENGINE_VERSION
from zesty_core.audio.channels import MonoSource
from zesty_core.audio.edits import edited
from zesty_core.audio.encoding import Encoding
from zesty_core.audio.writer import AudioWriter, depth_for
from zesty_core.chain.recipe import chain_as_json, chain_from_json
from zesty_core.chain.runner import ChainResult, Sink, run_chain
from zesty_core.compare.voice_gain import VoiceGainMeter
from zesty_core.delivery.deliver import Delivered, Order, deliver
from zesty_core.delivery.ends_for import ends_for, fill_tone
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import Block, Source, Span
from zesty_core.measures.overview import OverviewMaker
from zesty_core.measures.report import Measures
from zesty_core.runtime.cores import kept_to
from zesty_core.targets.document import FileWish
from zesty_core.targets.document import Target as Document
from zesty_server.deliveries.models import Delivery
from zesty_server.deliveries.services import make_delivery
from zesty_server.jobs.attempts import Attempt, remove_leavings, work_on
from zesty_server.jobs.models import Job, JobState
from zesty_server.jobs.services import claim, request_cancel
from zesty_server.jobs.waiting import BATCHES, DEFAULT, queue_job
from zesty_server.recipes.models import Recipe
from zesty_server.recipes.services import checked_steps
from zesty_server.recordings.decoding import decoded_audio
from zesty_server.recordings.edited_sound import EDIT_FIELDS, same_sound
from zesty_server.recordings.edits import ends_of, open_audio
from zesty_server.recordings.kept_measures import known_measures
from zesty_server.recordings.kept_overview import store_overview
from zesty_server.recordings.models import Recording
from zesty_server.recordings.room_tones import fill_tone_for, room_tone_for, tone_mark
from zesty_server.runs.models import MIXES, Run
from zesty_server.runs.origin import origin_of

#: What :class:`_Kept` takes for a sample of one channel: mostly the file to compare by, which is
#: compressed by one thread while the others wait.
_KEEPING_NS = 120.0


def start_run(
    recording: Recording,
    recipe: Recipe | None = None,
    batch_id: UUID | None = None,
    target: Document | None = None,
    to_mono: bool = False,
) -> Run:
    """Queue a run of the recording's own chain, or of a recipe; a target fits its last steps.

    ``to_mono`` says that one channel is delivered, even of a recording of two.

    Raises :class:`BadInput` when the recording is not ready or there is no step to run.
    """
    if recording.state != JobState.DONE:
        raise BadInput(f"{recording.name}: is not measured yet; wait until its figures are there")
    chain = checked_steps(recipe.steps if recipe else recording.chain)
    if not chain:
        raise BadInput(f"{recording.name}: the chain has no step; add one or apply a recipe")
    named = recipe or recording.recipe
    ends = ends_of(recording)
    if target:
        ends = ends_for(target, recording.measures or {}, ends)
    edits = {name: getattr(recording, name) for name in EDIT_FIELDS} | {
        "cuts": ends.cuts,
        "pad_start_s": ends.pad_start_s,
        "pad_end_s": ends.pad_end_s,
    }
    run = Run.objects.create(
        recording=recording,
        batch_id=batch_id,
        chain=chain,
        **edits,
        folds=to_mono and recording.channels > 1 and not recording.mono,
        target=target.as_json() if target else None,
        engine_version=ENGINE_VERSION,
        recipe_name=named.name if named else "",
        recipe_version=recipe.version if recipe else recording.recipe_version,
    )
    queue_run(run)
    return run


@transaction.atomic
def run_when_measured(recording_id: str, **_: object) -> None:
    """Run the chain that a recording came in with, once; later changes of it run nothing."""
    wanted = Recording.objects.filter(
        pk=recording_id, state=JobState.DONE, deleted_at=None, run_when_measured=True
    )
    if wanted.update(run_when_measured=False):
        recording = Recording.objects.get(pk=recording_id)
        if recording.chain:
            start_run(recording)


def start_overdue() -> None:
    """Run what came in with a chain to be run and whose worker died before it could begin."""
    overdue = Recording.objects.filter(state=JobState.DONE, deleted_at=None, run_when_measured=True)
    for pk in overdue.values_list("pk", flat=True):
        run_when_measured(str(pk))


def fit_to_target(recording: Recording) -> Run:
    """Queue a run whose last steps are set to meet the recording's target.

    Head and tail are left as they are: they are edits of the recording, not steps.
    """
    if recording.target is None:
        raise BadInput(f"{recording.name}: has no target; choose one first", path="target")
    document = recording.target.document
    inside = {k: v for k, v in document.bounds.items() if k not in ("head_s", "tail_s")}
    return start_run(recording, target=replace(document, bounds=inside))


def queue_run(run: Run) -> None:
    """Put it into the queue when the change that made it is kept."""
    transaction.on_commit(lambda: enqueue_run(run))


def enqueue_run(run: Run) -> None:
    """Put it into the queue now; one of a batch lets others go first."""
    from zesty_server.runs.tasks import do_run

    queue_job(Run, run.pk, BATCHES if run.batch_id else DEFAULT, do_run)


def enqueue_run_of(run_id: Any) -> None:
    """Put the run with this id into the queue now."""
    run = Run.objects.filter(pk=run_id).first()
    if run:
        enqueue_run(run)


def cancel_run(run: Run) -> None:
    """Stop a run; what it wrote is removed."""
    request_cancel(run)
    if Run.objects.filter(pk=run.pk, state=JobState.CANCELLED).exists():
        shutil.rmtree(run.home, ignore_errors=True)  # of tries that were taken for dead


@transaction.atomic
def retry_run(run: Run) -> Run:
    """Queue a run again that failed or was stopped."""
    ended = Run.objects.filter(pk=run.pk, state__in=(JobState.FAILED, JobState.CANCELLED))
    if not ended.update(
        state=JobState.WAITING,
        tries=0,
        error="",
        error_code="",
        task_id="",
        try_token=None,
        cancel_requested=False,
        progress=0.0,
        finished_at=None,
    ):
        raise BadInput("Only a run that failed or was stopped can be tried again")
    queue_run(run)
    run.refresh_from_db()
    return run


def name_run(run: Run, label: str) -> Run:
    """Call a result something; empty takes the name away."""
    Run.objects.filter(pk=run.pk).update(label=label)
    run.label = label
    return run


def remove_runs(doomed: Sequence[Run]) -> None:
    """Remove rows, then files."""
    Run.objects.filter(pk__in=[run.pk for run in doomed]).delete()
    for run in doomed:
        shutil.rmtree(run.home, ignore_errors=True)


def execute_run(run_id: str) -> None:
    """Do a run (background)."""
    if Run.objects.filter(pk=run_id, batch__paused=True).exists():
        return  # stays waiting; going on queues it again
    job = claim(Run, run_id)
    if job is None:
        return
    assert isinstance(job, Run)
    work = _RunWork()
    with kept_to(_cores_for(job)):
        outcome = work_on(job, work.execute, work.keep_delivery)
    remove_leavings(job.home, job.folder, outcome, besides=MIXES)


def _cores_for(run: Run) -> int | None:
    """One for each of a batch that are done side by side; a run by itself may have them all."""
    if run.batch_id is None:
        return None
    open_states = (JobState.WAITING, JobState.RUNNING)
    others = Run.objects.filter(batch=run.batch_id, state__in=open_states).exclude(pk=run.pk)
    return 1 if others.exists() else None


class _RunWork:
    """The work of one try; the delivery it made is stored together with the end of the run."""

    def __init__(self) -> None:
        self._delivery: Delivery | None = None

    def execute(self, job: Run, attempt: Attempt) -> dict[str, Any]:
        """Run the chain and make the delivery, if one was ordered; returns the row's fields."""
        self._delivery = Delivery.objects.filter(run=job).first()
        if self._delivery:
            self._delivery.run = job  # whose folder is that of this try
        return _execute(job, self._delivery, attempt)

    def keep_delivery(self, job: Job) -> dict[str, Any]:
        """Store what was found of the finished file."""
        if self._delivery:
            self._delivery.save()
        return {}


def _execute(job: Run, delivery: Delivery | None, attempt: Attempt) -> dict[str, Any]:
    recording = job.recording
    file = decoded_audio(recording, attempt)
    learned, fill = _tones(job)
    source = edited(file, job, fill)
    before = known_measures(recording, job)
    job.folder.mkdir(parents=True)
    compared = MonoSource(source, "mean") if job.folds else source
    kept = _Kept(job, compared, depth_for(file.format, "WAV"))
    chain = chain_from_json(job.chain)
    if delivery:
        origin = origin_of(job, file.info)
        made = make_delivery(delivery, source, file, learned, before, kept.opened, attempt, origin)
        fields = _fields(made.result) | {"chain": chain_as_json(made.chain), "notes": [*made.notes]}
        result = made.result
    elif job.target:
        made = _fitted(job, source, learned, before, kept, attempt)
        fields = _fields(made.result) | {"chain": chain_as_json(made.chain), "notes": [*made.notes]}
        result = made.result
    else:
        with kept.opened() as (sink, *also):
            result = run_chain(
                source,
                chain,
                sink,
                also=also,
                room_tone=learned,
                before=before,
                progress=attempt.progress,
                cancelled=attempt.cancelled,
                work_folder=settings.WORK_FOLDER,
                sink_ns=_KEEPING_NS,
            )
        fields = _fields(result)
    store_overview(job.overview_path, kept.overview.finish())
    _store_facts(job, result, tone_mark(recording))
    return fields | {
        "clipped_samples": kept.clipped_samples,
        "voice_gain_db": kept.voice_gain_db,
    }


def _fitted(
    run: Run,
    source: Source,
    tone: RoomTone | None,
    before: Measures | None,
    kept: _Kept,
    attempt: Attempt,
) -> Delivered:
    """The chain with its last steps fitted to the run's target, at the recording's own rate."""
    target = replace(Document.from_json(run.target), file=FileWish())
    order = Order(chain_from_json(run.chain), Encoding("WAV"), target, subtype="FLOAT")
    scratch = run.folder / "fitted.wav"
    try:
        return deliver(
            source,
            order,
            scratch,
            room_tone=tone,
            before=before,
            also=kept.opened,
            progress=attempt.progress,
            cancelled=attempt.cancelled,
            work_folder=settings.WORK_FOLDER,
        )
    finally:
        scratch.unlink(missing_ok=True)


def _tones(run: Run) -> tuple[RoomTone | None, RoomTone | None]:
    """What noise is learned from, and what fills added ends."""
    recording = run.recording
    fill = fill_tone_for(recording)
    if same_sound(run, recording):
        return room_tone_for(recording), fill
    if fill is None:
        # Times of the recording's own edits mean nothing here, so the sound is handed on.
        found = (recording.measures or {}).get("found_room_tone")
        own = edited(open_audio(recording), recording, None)
        fill = fill_tone(own, None, Span(**found) if found else None)
    return fill, fill


class _Kept:
    """What is kept of a run for looking and comparing; opened anew, it starts again."""

    def __init__(self, run: Run, source: Source, subtype: str) -> None:
        self._run, self._source, self._subtype = run, source, subtype
        self.overview = OverviewMaker(source.info.channels)
        self.clipped_samples = 0
        self.voice_gain_db: float | None = None

    @contextmanager
    def opened(self) -> Iterator[Sequence[Sink]]:
        """Context whose sinks take the finished sound."""
        info, run = self._source.info, self._run
        self.overview = OverviewMaker(info.channels)
        before = _Aligned(self._source.blocks())
        voice_gain = VoiceGainMeter(info.sample_rate_hz)
        with (
            AudioWriter(
                run.result_path,
                info.sample_rate_hz,
                info.channels,
                self._subtype,
                length_samples=info.length_samples,
            ) as result_file,
            AudioWriter(
                run.pair_path, info.sample_rate_hz, 2 * info.channels, "PCM_24"
            ) as pair_file,
        ):

            def keep_pair(block: Block) -> None:
                after = block.astype(np.float32, copy=False)
                own = before.next(after.shape[1])
                pair_file.write(np.concatenate([own, after]))
                voice_gain.push(own, after)

            def keep_result(block: Block) -> None:
                after = block.astype(np.float32, copy=False)
                result_file.write(after)
                self.overview.push(after)

            yield keep_pair, keep_result
        self.clipped_samples = result_file.clipped_samples
        self.voice_gain_db = voice_gain.finish()


def _store_facts(run: Run, result: ChainResult, room_tone: str | None) -> None:
    facts = {index: point.facts for index, point in enumerate(result.points)}
    run.facts_path.write_text(json.dumps({"room_tone": room_tone, "facts": facts}))


def _fields(result: ChainResult) -> dict[str, Any]:
    return {
        "before": result.before.as_json(),
        "after": result.after.as_json(),
        "points": [p.as_json() for p in result.points],
        "notes": result.notes,
        "mended": result.mended,
        "room_tone": result.room_tone_json(),
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
