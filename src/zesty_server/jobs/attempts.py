"""One try at a piece of background work: its hold on the row, its heartbeat, its end.

Every change of the row is one update that is conditional on the try's token. A try that was taken for
dead (a worker that was stopped, a laptop that slept) therefore changes nothing when it comes back.
"""

from __future__ import annotations

import logging
import shutil
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from enum import Enum, auto
from pathlib import Path
from typing import Any

from django.db import transaction
from django.db.models import F, QuerySet
from django.utils import timezone

from zesty_core.chain.runner import Progress
from zesty_core.foundation.errors import Cancelled, ZestyError
from zesty_server.jobs.models import Job, JobState
from zesty_server.jobs.outages import OUTAGE, drop_connection, outlasting_outages

_log = logging.getLogger(__name__)
_WRITE_EVERY_S = 0.25
#: Work that ended because the database was away is queued again; it was not the work's fault.
_RELEASED = {"state": JobState.WAITING, "try_token": None, "task_id": "", "tries": F("tries") - 1}

#: Changes other rows in the transaction that ends the work; returns fields of the row to set.
Finish = Callable[[Job], dict[str, Any]]


class Outcome(Enum):
    """How a try ended."""

    DONE = auto()
    #: Failed or cancelled, and the row says so.
    ENDED = auto()
    #: The row belonged to another try, or was gone.
    DISMISSED = auto()
    #: The database was away; the row waits again.
    RELEASED = auto()


class Attempt:
    """A try's hold on its row."""

    def __init__(self, job: Job) -> None:
        self._job = job
        self._written_s = float("-inf")
        self._is_lost = False
        self._is_cancelled = False

    @property
    def token(self) -> str:
        """What sets the files of this try apart from those of others."""
        return str(self._job.try_token)

    def rows(self) -> QuerySet[Any]:
        """The row, as long as it is this try's."""
        return type(self._job)._default_manager.filter(
            pk=self._job.pk, state=JobState.RUNNING, try_token=self._job.try_token
        )

    def progress(self, progress: Progress) -> None:
        """Store how far the work is; a few times a second at most."""
        now_s = time.monotonic()
        if now_s - self._written_s < _WRITE_EVERY_S:
            return
        self._written_s = now_s
        self._beat(progress=progress.share, doing=progress.doing[:200])

    def beat(self) -> None:
        """Show that the worker is alive."""
        self._beat()

    def cancelled(self) -> bool:
        """Whether to stop: the user asked for it, or the row is no longer this try's."""
        return self._is_cancelled or self._is_lost

    def is_current(self) -> bool:
        """Ask the database whether the row is still this try's, before files are moved."""
        self._is_lost = self._is_lost or not outlasting_outages(self.rows().exists)
        return not self._is_lost

    def _beat(self, **fields: Any) -> None:
        try:
            if not self.rows().update(heartbeat=F("heartbeat") + 1, **fields):
                self._is_lost = True
            elif self.rows().filter(cancel_requested=True).exists():
                self._is_cancelled = True
        except OUTAGE:
            drop_connection()  # the work goes on; its end waits for the database

    def publish(self, fields: dict[str, Any], finish: Finish | None) -> Outcome:
        """Make the row *done* with these fields, together with what ``finish`` changes."""

        def end() -> bool:
            with transaction.atomic():
                job = self.rows().select_for_update().first()
                if job is None:
                    return False
                more = finish(job) if finish else {}
                ended = _ending(state=JobState.DONE, progress=1.0, error="", error_code="")
                return bool(self.rows().update(**(ended | fields | more)))

        if outlasting_outages(end):
            return Outcome.DONE
        # The connection may have broken after the change was kept.
        mine = type(self._job)._default_manager.filter(
            pk=self._job.pk, state=JobState.DONE, try_token=self._job.try_token
        )
        return Outcome.DONE if outlasting_outages(mine.exists) else Outcome.DISMISSED

    def end(self, **fields: Any) -> Outcome:
        """Write down that the work failed or was cancelled."""
        ended = outlasting_outages(lambda: self.rows().update(**_ending(**fields)))
        return Outcome.ENDED if ended else Outcome.DISMISSED

    def release(self) -> Outcome:
        """Give the row back to wait for another try."""
        given = outlasting_outages(lambda: self.rows().update(**_RELEASED))
        return Outcome.RELEASED if given else Outcome.DISMISSED


def _ending(**fields: Any) -> dict[str, Any]:
    return {"finished_at": timezone.now(), "doing": "", **fields}


def work_on(
    job: Job, work: Callable[[Any, Attempt], dict[str, Any]], finish: Finish | None = None
) -> Outcome:
    """Do claimed work; what it returns becomes fields of the row, and errors one line on it."""
    attempt = Attempt(job)
    try:
        with _beating(attempt):
            fields = work(job, attempt)
        outcome = attempt.publish(fields, finish)
    except Cancelled:
        outcome = attempt.end(state=JobState.CANCELLED)
    except ZestyError as error:
        outcome = attempt.end(state=JobState.FAILED, error_code=error.code, error=error.message)
    except OUTAGE:
        drop_connection()
        outcome = attempt.release()
    except Exception:
        # Files of a try that was taken for dead vanish under it: that is no failure.
        if attempt.is_current():
            _log.exception("work on %s failed", job.pk)
        message = "Something went wrong in the server; the recording is safe. Try it again."
        outcome = attempt.end(state=JobState.FAILED, error_code="failed", error=message)
    if outcome is Outcome.DISMISSED:
        name = type(job).__name__.lower()
        _log.warning("%s %s: try %s was taken for dead and ends", name, job.pk, job.try_token)
    return outcome


_current: Attempt | None = None
_current_lock = threading.Lock()


@contextmanager
def _beating(attempt: Attempt) -> Iterator[None]:
    """Inside, the process's pulse (:func:`keep_beating`) beats for this try."""
    global _current  # noqa: PLW0603 - a worker does one thing at a time
    with _current_lock:
        before, _current = _current, attempt
    try:
        yield
    finally:
        with _current_lock:
            _current = before


def keep_beating(every_s: float) -> None:
    """Beat for whatever this process works on, from a thread, until the process ends.

    Work that is silent for long (a compiler, an encoder that finishes) keeps its row that way; a
    process that is stopped or killed does not.
    """

    def pulse() -> None:
        while True:
            time.sleep(every_s)
            with _current_lock:
                attempt = _current
            if attempt:
                attempt.beat()

    threading.Thread(target=pulse, name="pulse", daemon=True).start()


def remove_leavings(home: Path, kept: Path, outcome: Outcome, *, besides: str = "") -> None:
    """Remove what tries have left in the folder of a row.

    ``kept`` is the folder of this try inside ``home``; ``besides`` names an entry of ``home`` that is
    nobody's leaving.
    """
    if outcome is Outcome.ENDED:
        shutil.rmtree(home, ignore_errors=True)
        return
    if not home.exists():
        return
    if outcome is Outcome.DONE:
        doomed = [path for path in home.iterdir() if path != kept and path.name != besides]
    else:
        doomed = [kept]
    for path in doomed:
        shutil.rmtree(path, ignore_errors=True)
    with suppress(OSError):
        home.rmdir()  # only where nothing is in it
