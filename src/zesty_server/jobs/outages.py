"""A database that is away for a while: restarted, asleep, or locked by a process that was stopped."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import TypeVar

from django.db import InterfaceError, OperationalError, close_old_connections, connection

_log = logging.getLogger(__name__)
#: What drivers raise while the database cannot be reached.
OUTAGE = (OperationalError, InterfaceError)
_LONGEST_S = 300.0
_FIRST_PAUSE_S, _LONGEST_PAUSE_S = 0.2, 3.0

_Result = TypeVar("_Result")


def drop_connection() -> None:
    """Close this thread's connection, so that the next query opens a new one."""
    if connection.in_atomic_block:
        return
    try:
        connection.close()
    except OUTAGE:
        connection.connection = None


@contextmanager
def fresh_connection() -> Iterator[None]:
    """Inside, a task has a connection that works, and leaves no broken one to the next.

    A worker's connection lives long, and queues do not look after it.
    """
    if not connection.in_atomic_block:  # in tests, work is done where it is asked for
        close_old_connections()
    try:
        yield
    except OUTAGE:
        drop_connection()
        raise


def outlasting_outages(query: Callable[[], _Result], longest_s: float = _LONGEST_S) -> _Result:
    """Run a query that may be repeated; while the database is away, try again.

    Raises what the driver raised once it has been away for ``longest_s``.
    """
    begun, pause_s = time.monotonic(), _FIRST_PAUSE_S
    while True:
        try:
            return query()
        except OUTAGE as fault:
            if connection.in_atomic_block or time.monotonic() - begun > longest_s:
                raise
            _log.warning("the database is away (%s); trying again", str(fault).strip())
            drop_connection()
            time.sleep(pause_s)
            pause_s = min(_LONGEST_PAUSE_S, 2.0 * pause_s)
