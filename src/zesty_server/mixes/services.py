"""Making a mix: a run's result over a bed, as a finished file with its receipt."""

from __future__ import annotations

import shutil
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from zesty_core.audio.tags import checked_tags
from zesty_core.bed.finishing import UNKNOWN_OF_MIX, mix_chain, target_of_mix
from zesty_core.bed.mix import MixSource
from zesty_core.bed.plan import hold_bed, measure_voice, plan_bed
from zesty_core.bed.settings import BedSettings
from zesty_core.delivery.deliver import Delivered, deliver
from zesty_core.delivery.names import DEFAULT_PATTERN, file_name
from zesty_core.delivery.receipt import receipt_of, sha256_of
from zesty_core.foundation.errors import BadInput
from zesty_core.targets.document import FileWish
from zesty_core.targets.document import Target as Document
from zesty_server.beds.models import Bed
from zesty_server.beds.services import bed_file
from zesty_server.deliveries.covers import kept_cover
from zesty_server.deliveries.services import keep_receipt, ordered
from zesty_server.jobs.attempts import Attempt, remove_leavings, work_on
from zesty_server.jobs.services import claim, request_cancel
from zesty_server.jobs.waiting import DEFAULT, queue_job
from zesty_server.mixes.laying import voice_over
from zesty_server.mixes.models import Mix
from zesty_server.recordings.edits import open_audio
from zesty_server.runs.models import Run
from zesty_server.runs.origin import origin_of
from zesty_server.targets.models import Target


@dataclass(frozen=True)
class MixOrder:
    """What is to be laid under which result, and what file is wanted of it."""

    run: Run
    bed: Bed
    params: Mapping[str, Any] = field(default_factory=dict)
    name: str = ""
    target: Target | None = None
    #: Kind of file; what it leaves out is the target's.
    file: Mapping[str, Any] = field(default_factory=dict)
    tags: Mapping[str, str] = field(default_factory=dict)
    cover: str = ""


@transaction.atomic
def start_mix(order: MixOrder) -> Mix:
    """Queue it. Raises :class:`BadInput` for what cannot be ordered."""
    chosen: BedSettings = BedSettings.from_params(dict(order.params))
    bed_file(order.bed)
    document = order.target.document if order.target else None
    wish = (document.file if document else FileWish()).changed(order.file)
    asked = target_of_mix(document, wish) if document else None
    kept_cover(order.cover)
    usual = f"{order.run.recording.name} over {order.bed.name}"
    mix = Mix.objects.create(
        run=order.run,
        bed=order.bed,
        bed_name=order.bed.name,
        params=chosen.as_params(),
        name=file_name(DEFAULT_PATTERN, {"title": order.name.strip() or usual}),
        target=asked.as_json() if asked else None,
        file=wish.as_json(),
        tags=checked_tags(dict(order.tags)),
        cover=order.cover,
    )
    queue_mix(mix)
    return mix


def queue_mix(mix: Mix) -> None:
    """Put it into the queue when the change that made it is kept."""
    transaction.on_commit(lambda: enqueue_mix(mix.pk))


def enqueue_mix(mix_id: Any) -> None:
    """Put it into the queue now."""
    from zesty_server.mixes.tasks import do_mix

    queue_job(Mix, mix_id, DEFAULT, do_mix)


def delete_mix(mix: Mix) -> None:
    """Stop it if it is at work, and remove it with its file."""
    request_cancel(mix)
    home = mix.home
    mix.delete()
    shutil.rmtree(home, ignore_errors=True)


def execute_mix(mix_id: str) -> None:
    """Make it (background)."""
    job = claim(Mix, mix_id)
    if job is None:
        return
    assert isinstance(job, Mix)
    remove_leavings(job.home, job.folder, work_on(job, _execute))


def _execute(job: Mix, attempt: Attempt) -> dict[str, Any]:
    if job.bed is None:
        raise BadInput(f"{job.bed_name}: was deleted; bring it in again", path="bed")
    music = bed_file(job.bed)
    voice = voice_over(job.run, music, job.file.get("channels"))
    bed = hold_bed(music, voice.info.sample_rate_hz, voice.info.channels)
    plan = plan_bed(measure_voice(voice), bed, BedSettings.from_params(job.params))
    order = ordered(job, mix_chain(), "PCM_24")
    job.folder.mkdir(parents=True)

    def beside(delivered: Delivered, staged: Path) -> None:
        keep_receipt(job, _receipt(job, order.target, delivered, staged))

    deliver(
        MixSource(voice, plan),
        order,
        job.path,
        beside=beside,
        progress=attempt.progress,
        cancelled=attempt.cancelled,
        work_folder=settings.WORK_FOLDER,
    )
    told = ("check_of_file", "measures", "size_bytes", "sha256")
    return {name: getattr(job, name) for name in told}


def _receipt(
    mix: Mix, target: Document | None, delivered: Delivered, staged: Path
) -> dict[str, Any]:
    """From the recording to the mix: the voice's chain, the bed, and what was done to both."""
    run, bed = mix.run, mix.bed
    assert bed is not None
    receipt = receipt_of(
        delivered,
        staged,
        mix.file_name,
        origin_of(run, open_audio(run.recording).info),
        target=target,
        tags=mix.tags,
        made_at=timezone.now(),
    )
    return receipt | {
        "after": receipt["after"] | UNKNOWN_OF_MIX,
        "chain": [*run.chain, *receipt["chain"]],
        "steps": [*run.points, *receipt["steps"]],
        "room_tone": run.room_tone,
        "before": run.before,
        "bed": {
            "name": mix.bed_name,
            "sha256": sha256_of(bed.path),
            "params": mix.params,
            "after_step": len(run.chain),
        },
    }
