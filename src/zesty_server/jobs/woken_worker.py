"""Takes tasks from the queue in the database; between them it waits to be woken."""

from __future__ import annotations

import logging

from django.db import close_old_connections
from django_tasks_db.management.commands.db_worker import Worker
from django_tasks_db.models import DBTaskResult
from django_tasks_db.utils import exclusive_transaction

from zesty_server.jobs.outages import OUTAGE, drop_connection
from zesty_server.jobs.wake import Bell

_log = logging.getLogger(__name__)
#: For work that other machines have queued, or whose wake-up got lost.
_LOOK_EVERY_S = 2.0
_OUTAGE_PAUSE_S = 1.0


class WokenWorker(Worker):
    """The framework's worker with another wait, and patience with a database that is away."""

    def run(self) -> None:
        """Work until told to stop."""
        with Bell() as bell:
            while self.running:
                close_old_connections()
                try:
                    worked = self._work_once()
                except OUTAGE as fault:
                    _log.warning("the queue is away (%s)", str(fault).strip())
                    drop_connection()
                    bell.wait(_OUTAGE_PAUSE_S)
                    continue
                if not worked and self.running:
                    bell.wait(_LOOK_EVERY_S)

    def _work_once(self) -> bool:
        """Do the next task; returns whether there was one."""
        # First a look that locks nothing: an idle worker must not hold up those who write.
        if not DBTaskResult.objects.ready().exists():
            return False
        with exclusive_transaction():
            task = DBTaskResult.objects.ready().get_locked()
            if task is not None:
                task.claim(self.worker_id)
        if task is not None:
            self.run_task(task)
        return task is not None
