"""Background work on mixes. Tasks take ids."""

from django_tasks import task

from zesty_server.beds import mixes


@task()
def do_mix(mix_id: str) -> None:
    """Make a mix."""
    mixes.execute_mix(mix_id)
