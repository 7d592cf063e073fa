"""Background work on recordings. Tasks take ids."""

from django_tasks import task

from zesty_server.jobs.outages import fresh_connection
from zesty_server.recordings import services
from zesty_server.recordings.models import Recording
from zesty_server.recordings.signals import measured


@task()
def measure_recording(recording_id: str) -> None:
    """Measure and draw, and announce it."""
    with fresh_connection():
        services.measure(recording_id)
        measured.send(Recording, recording_id=recording_id)
