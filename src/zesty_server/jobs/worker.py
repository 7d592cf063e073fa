"""The worker process: ``python -m zesty_server.jobs.worker``, started by ``zesty serve``.

With the queue in the database it is woken (:mod:`zesty_server.jobs.wake`) and looks by itself now and
then, for work that other machines have queued. With Redis the queue's own worker waits there.
"""

from __future__ import annotations

import logging
import os

import django

from zesty_server.lifeline import end_with_parent


def main() -> None:
    """Work until told to stop, or until the parent ends."""
    end_with_parent()
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zesty_server.config.settings")
    django.setup()
    from django.conf import settings

    from zesty_server.jobs.attempts import keep_beating

    keep_beating(settings.LEASE_S / 5.0)
    if settings.REDIS_URL:
        _work_on_redis(list(settings.QUEUES))
    else:
        _work_on_database()


def _work_on_redis(queues: list[str]) -> None:
    from django.core.management import call_command

    call_command(
        "rqworker",
        *queues,
        # In its own process: another for each task would load everything for each task.
        job_class="django_tasks_rq.Job",
        worker_class="rq.worker.SimpleWorker",
        verbosity=0,
    )


def _work_on_database() -> None:
    from django.utils.crypto import get_random_string

    from zesty_server.jobs.woken_worker import WokenWorker

    for name in ("django_tasks", "django_tasks_db"):
        logging.getLogger(name).setLevel(logging.CRITICAL)
    worker = WokenWorker(
        queue_names=["*"],
        interval=0.0,
        batch=False,
        backend_name="default",
        startup_delay=False,
        max_tasks=None,
        worker_id=get_random_string(32),
        excluded_queue_names=[],
    )
    worker.configure_signals()
    worker.run()


if __name__ == "__main__":
    main()
