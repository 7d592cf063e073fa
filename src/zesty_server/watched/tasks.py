"""Background work on watched folders. Tasks take ids."""

from django_tasks import task

from zesty_server.jobs.outages import fresh_connection
from zesty_server.watched import working


@task()
def work_on_folder(folder_id: str) -> None:
    """Take in, run and put out what came into a folder."""
    with fresh_connection():
        working.execute(folder_id)
