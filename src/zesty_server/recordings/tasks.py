"""Background work on recordings. Tasks take ids."""

from django_tasks import task

from zesty_server.recordings import services


@task()
def measure_recording(recording_id: str) -> None:
    """Measure and draw."""
    services.measure(recording_id)
