"""Background work on runs. Tasks take ids."""

from django_tasks import task

from zesty_server.jobs.outages import fresh_connection
from zesty_server.runs import services


@task()
def do_run(run_id: str) -> None:
    """Do a run."""
    with fresh_connection():
        services.execute_run(run_id)
