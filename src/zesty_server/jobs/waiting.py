"""What waits in the queues, whichever they are.

Work is taken from the first queue that has any: measuring takes seconds and is looked at, and who
works on one recording does not wait for a batch of a hundred others.
"""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django_tasks.base import TaskResultStatus
from django_tasks_db.models import DBTaskResult

#: Names of the queues, in the order in which work is taken from them.
MEASURING, DEFAULT, BATCHES = settings.QUEUES
#: The one in the database takes from all of them by these; the other knows no priorities.
_PRIORITIES = {MEASURING: 10, DEFAULT: 0, BATCHES: -10}


def waiting_in(queue: str, task: Any) -> Any:
    """The task, to be queued there."""
    ranked = {} if settings.REDIS_URL else {"priority": _PRIORITIES[queue]}
    return task.using(queue_name=queue, **ranked)


def anything_queued() -> bool:
    """Whether a task waits that no worker has taken."""
    if settings.REDIS_URL:
        from django_rq import get_queue

        return any(get_queue(name).count for name in settings.QUEUES)
    return DBTaskResult.objects.filter(status=TaskResultStatus.READY).exists()


def worker_command() -> list[str]:
    """Arguments of the framework's command that works on it."""
    if settings.REDIS_URL:
        # In its own process: another for each task would load everything for each task.
        kinds = ["--job-class", "django_tasks_rq.Job", "--worker-class", "rq.worker.SimpleWorker"]
        return ["rqworker", *settings.QUEUES, *kinds, "-v", "0"]
    return ["db_worker", "--queue-name", "*", "--interval", "0.2", "-v", "0"]
