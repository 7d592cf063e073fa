"""Finds work whose worker died or slept, and waiting work whose task got lost; queues it again.

Age is measured here, by this process's monotonic clock, from when a row was first seen as it is now:
a wall clock that jumps, or differs between machines, changes nothing. Only time in which this process
itself was awake counts: after a sleep of the whole machine, workers get their chance to go on. Taking a
row from its try is one update conditional on what was seen, so of several watches only one queues it
again.
"""

from __future__ import annotations

import shutil
import time
from collections.abc import Callable, Iterable
from typing import Any

from django.conf import settings
from django.utils import timezone

from zesty_server.jobs.kinds import Kind, kinds
from zesty_server.jobs.models import MOST_TRIES, OPEN_STATES, JobState
from zesty_server.jobs.waiting import tasks_in_queue

LEASE_S = float(settings.LEASE_S)
#: A worker claims the row milliseconds after it took the task; a lost task is found sooner than a
#: dead worker.
LOST_AFTER_S = min(LEASE_S, 10.0)
#: Look at least so often; a longer gap means that this process slept, and counts as so much.
LOOK_EVERY_S = min(5.0, LEASE_S / 6.0)
_LONGEST_GAP_S = 2.0 * LOOK_EVERY_S

_Key = tuple[type, Any]
_Row = dict[str, Any]


class Watch:
    """What one process has seen of the open rows."""

    def __init__(self, clock_s: Callable[[], float] = time.monotonic) -> None:
        self._clock_s = clock_s
        self._looked_at_s = clock_s()
        self._watched_s = 0.0
        self._seen: dict[_Key, tuple[tuple[Any, ...], float]] = {}

    def look(self) -> int:
        """Queue again what is abandoned or lost; returns how many."""
        now_s = self._clock_s()
        self._watched_s += min(now_s - self._looked_at_s, _LONGEST_GAP_S)
        self._looked_at_s = now_s
        again, seen = 0, {}
        for kind in kinds():
            kind.start_overdue()
            rows = list(
                kind.wanted()
                .filter(state__in=OPEN_STATES)
                .values("pk", "state", "try_token", "heartbeat", "tries", "task_id")
            )
            lost = self._lost_tasks(row for row in rows if row["state"] == JobState.WAITING)
            for row in rows:
                if row["state"] == JobState.WAITING and row["pk"] not in lost:
                    continue
                key = (kind.model, row["pk"])
                mark = tuple(row.values())
                since_s = self._since_s(key, mark)
                if self._watched_s - since_s < self._patience_s(row):
                    seen[key] = (mark, since_s)
                else:
                    again += _queue_again(kind, row)
        self._seen = seen
        return again

    def _since_s(self, key: _Key, mark: tuple[Any, ...]) -> float:
        known = self._seen.get(key)
        return known[1] if known and known[0] == mark else self._watched_s

    @staticmethod
    def _patience_s(row: _Row) -> float:
        return LEASE_S if row["state"] == JobState.RUNNING else LOST_AFTER_S

    @staticmethod
    def _lost_tasks(waiting: Iterable[_Row]) -> set[Any]:
        """Ids of rows for which no task waits in the queue."""
        tasks = {row["pk"]: row["task_id"] for row in waiting}
        there = tasks_in_queue(set(tasks.values())) if tasks else set()
        return {pk for pk, task_id in tasks.items() if task_id not in there}


def _queue_again(kind: Kind, row: _Row) -> int:
    as_seen = kind.model._default_manager.filter(**row)
    if row["state"] == JobState.RUNNING and row["tries"] >= MOST_TRIES:
        failed = as_seen.update(
            state=JobState.FAILED,
            error_code="failed",
            finished_at=timezone.now(),
            try_token=None,
            error=f"Stopped {MOST_TRIES} times before it was done. Try it again.",
        )
        if failed:
            _remove_home(kind, row["pk"])
        return 0
    if not as_seen.update(state=JobState.WAITING, try_token=None, task_id=""):
        return 0
    kind.enqueue(row["pk"])
    return 1


def _remove_home(kind: Kind, pk: Any) -> None:
    job = kind.model._default_manager.filter(pk=pk).first()
    home = kind.home(job) if job else None
    if home:
        shutil.rmtree(home, ignore_errors=True)
