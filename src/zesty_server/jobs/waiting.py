"""What waits in the queue, whichever it is."""

from __future__ import annotations

from django.conf import settings
from django_tasks.base import TaskResultStatus
from django_tasks_db.models import DBTaskResult


def anything_queued() -> bool:
    """Whether a task waits that no worker has taken."""
    if settings.REDIS_URL:
        from django_rq import get_queue

        return bool(get_queue("default").count)
    return DBTaskResult.objects.filter(status=TaskResultStatus.READY).exists()


def worker_command() -> list[str]:
    """Arguments of the framework's command that works on it."""
    if settings.REDIS_URL:
        # In its own process: another for each task would load everything for each task.
        kinds = ["--job-class", "django_tasks_rq.Job", "--worker-class", "rq.worker.SimpleWorker"]
        return ["rqworker", "default", *kinds, "-v", "0"]
    return ["db_worker", "--interval", "0.2", "-v", "0"]
