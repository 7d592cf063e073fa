"""Background work on recordings. Tasks take ids."""

from django_tasks import task

from zesty_server.jobs.outages import fresh_connection
from zesty_server.recordings import services


@task()
def measure_recording(recording_id: str) -> None:
    """Measure and draw; then run its chain, where that was asked for when it came in."""
    from zesty_server.runs.services import run_when_measured

    with fresh_connection():
        services.measure(recording_id)
        run_when_measured(recording_id)
