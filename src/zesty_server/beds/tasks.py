"""Background work on mixes. Tasks take ids."""

from django_tasks import task

from zesty_server.beds import mixes
from zesty_server.jobs.outages import fresh_connection


@task()
def do_mix(mix_id: str) -> None:
    """Make a mix."""
    with fresh_connection():
        mixes.execute_mix(mix_id)
