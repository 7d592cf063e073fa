"""What waits in the queues, whichever they are.

Work is taken from the first queue that has any: measuring takes seconds and is looked at, and who
works on one recording does not wait for a batch of a hundred others.
"""

from __future__ import annotations

import logging
from collections.abc import Set
from typing import Any

from django.conf import settings
from django_tasks.base import TaskResultStatus
from django_tasks_db.models import DBTaskResult

from zesty_server.jobs.models import Job, JobState
from zesty_server.jobs.wake import wake_workers

_log = logging.getLogger(__name__)
#: Names of the queues, in the order in which work is taken from them.
MEASURING, DEFAULT, BATCHES = settings.QUEUES
#: The one in the database takes from all of them by these; the other knows no priorities.
_PRIORITIES = {MEASURING: 10, DEFAULT: 0, BATCHES: -10}


def waiting_in(queue: str, task: Any) -> Any:
    """The task, to be queued there."""
    ranked = {} if settings.REDIS_URL else {"priority": _PRIORITIES[queue]}
    return task.using(queue_name=queue, **ranked)


def queue_job(job_type: type[Job], job_id: Any, queue: str, task: Any) -> None:
    """Put waiting work into a queue now, and wake a worker.

    When the queue cannot be reached the row keeps waiting; the watch finds it once it can.
    """
    try:
        result = waiting_in(queue, task).enqueue(str(job_id))
    except Exception as fault:
        if not settings.REDIS_URL:
            raise
        _log.warning("%s waits until the queue is back: %s", job_id, fault)
        return
    waits = job_type._default_manager.filter(pk=job_id, state=JobState.WAITING)
    waits.update(task_id=str(result.id))
    wake_workers()


def tasks_in_queue(task_ids: Set[str]) -> set[str]:
    """Those of the tasks that no worker has taken yet."""
    if settings.REDIS_URL:
        from django_rq import get_queue

        queued: set[str] = set()
        for name in settings.QUEUES:
            queued |= set(get_queue(name).get_job_ids())
        return queued & task_ids
    ready = DBTaskResult.objects.filter(status=TaskResultStatus.READY)
    return {str(task_id) for task_id in ready.values_list("id", flat=True)} & task_ids
