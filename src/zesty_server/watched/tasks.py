"""Background work on watched folders. Tasks take ids."""

from django_tasks import task

from zesty_server.jobs.outages import fresh_connection
from zesty_server.watched import processing


@task()
def work_on_folder(folder_id: str) -> None:
    """Run one pass over a folder."""
    with fresh_connection():
        processing.execute(folder_id)
