"""Work whose worker died, of every kind."""

from typing import Any

from zesty_server.beds.models import Mix
from zesty_server.beds.tasks import do_mix
from zesty_server.jobs.services import take_up_abandoned, take_up_forgotten
from zesty_server.recordings.models import Recording
from zesty_server.recordings.services import enqueue_measuring
from zesty_server.runs.models import Run
from zesty_server.runs.services import enqueue_run


def take_up_all_abandoned() -> int:
    """Queue it again; returns how many."""
    return (
        take_up_abandoned(Recording, _measure)
        + take_up_abandoned(Run, _run)
        + take_up_abandoned(Mix, _mix)
        + take_up_forgotten(Recording.objects.filter(deleted_at=None), _measure)
        + take_up_forgotten(Run.objects.exclude(batch__paused=True), _run)
        + take_up_forgotten(Mix.objects.all(), _mix)
    )


def _measure(pk: Any) -> None:
    enqueue_measuring(str(pk))


def _run(pk: Any) -> None:
    enqueue_run(Run.objects.get(pk=pk))


def _mix(pk: Any) -> None:
    do_mix.enqueue(str(pk))
