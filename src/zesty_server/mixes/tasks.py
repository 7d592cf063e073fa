"""Background work on mixes. Tasks take ids."""

from django_tasks import task

from zesty_server.jobs.outages import fresh_connection
from zesty_server.mixes import services


@task()
def do_mix(mix_id: str) -> None:
    """Make a mix."""
    with fresh_connection():
        services.execute_mix(mix_id)
