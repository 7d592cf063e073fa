"""Work whose worker died, of every kind."""

from zesty_server.jobs.services import take_up_abandoned
from zesty_server.recordings.models import Recording
from zesty_server.recordings.tasks import measure_recording
from zesty_server.runs.models import Run
from zesty_server.runs.tasks import do_run


def take_up_all_abandoned() -> int:
    """Queue it again; returns how many."""
    return take_up_abandoned(Recording, lambda pk: measure_recording.enqueue(str(pk))) + (
        take_up_abandoned(Run, lambda pk: do_run.enqueue(str(pk)))
    )
