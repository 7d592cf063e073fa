"""Several files at a time, each in a process of its own kind; one that dies is started again."""

from __future__ import annotations

import multiprocessing
import queue
import sys
import time
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from multiprocessing.managers import SyncManager
from typing import Any

from zesty_core.chain.runner import Progress
from zesty_core.delivery.figures import shown
from zesty_core.delivery.file_job import FileJob, deliver_file
from zesty_core.foundation.errors import ZestyError
from zesty_core.runtime.allocator import keep_freed_memory
from zesty_core.runtime.cores import keep_to, kept_to

_MOST_TRIES = 3
_TELL_EVERY_S = 0.25


@dataclass(frozen=True)
class Outcome:
    """What became of a file: its receipt, or why it failed."""

    source: str
    receipt: dict[str, Any] | None = None
    error: str | None = None
    was_there: bool = False

    @property
    def is_missed(self) -> bool:
        """Whether its target was missed."""
        rules = self.receipt["check"] if self.receipt else []
        return any(rule["is_met"] is not True for rule in rules)

    def line(self) -> str:
        """One line of the table."""
        if self.receipt is None:
            return f"failed  {self.source}: {self.error}"
        after, rules = self.receipt["after"], self.receipt["check"]
        missed = [
            f"{r['label'].lower()} {r['got']}, wanted {r['wanted']}"
            for r in rules
            if r["is_met"] is not True
        ]
        state = "there" if self.was_there else "missed" if missed else "done"
        figures = "  ".join(
            (
                shown(after["integrated_lufs"], "LUFS"),
                shown(after["true_peak_dbtp"], "dBTP"),
                "noise " + shown(after["noise_floor_dbfs"], "dBFS"),
            )
        )
        return "  ".join(
            [f"{state:6}", self.receipt["file"]["name"], figures, *(f"({m})" for m in missed)]
        )

    def as_json(self) -> dict[str, Any]:
        """JSON object."""
        return {
            "source": self.source,
            "was_there": self.was_there,
            "error": self.error,
            "receipt": self.receipt,
        }


def work_on(jobs: list[FileJob], workers: int) -> list[Outcome]:
    """Deliver all, ``workers`` at a time, each on a core of its own; a single file has them all.

    The outcomes come in the order of the jobs.
    """
    if not jobs:
        return []
    if workers == 1 or len(jobs) == 1:
        shares = [0.0] * len(jobs)
        line = _Line(len(jobs))
        with kept_to(1 if len(jobs) > 1 else None):
            return [_alone(job, at, shares, line) for at, job in enumerate(jobs)]
    with multiprocessing.Manager() as manager:
        return _in_processes(jobs, workers, manager)


def _alone(job: FileJob, at: int, shares: list[float], line: _Line) -> Outcome:
    def tell(progress: Progress) -> None:
        shares[at] = progress.share
        line.show(sum(shares))

    outcome = _outcome(job, tell)
    shares[at] = 1.0
    line.clear()
    return outcome


def _outcome(job: FileJob, tell: Any) -> Outcome:
    try:
        return Outcome(job.path.name, deliver_file(job, tell))
    except ZestyError as error:
        return Outcome(job.path.name, error=error.message)


def _begin() -> None:
    """First thing in a child: one core, and its freed memory for the next block."""
    keep_to(1)
    keep_freed_memory()


def _in_processes(jobs: list[FileJob], workers: int, manager: SyncManager) -> list[Outcome]:
    told: Any = manager.Queue()
    outcomes: dict[int, Outcome] = {}
    tries = dict.fromkeys(range(len(jobs)), 0)
    shares, line = [0.0] * len(jobs), _Line(len(jobs))
    while len(outcomes) < len(jobs):
        left = [at for at in range(len(jobs)) if at not in outcomes]
        context = multiprocessing.get_context("spawn")
        with ProcessPoolExecutor(min(workers, len(left)), context, _begin) as pool:
            running: dict[Future[Outcome], int] = {}
            try:
                for at in left:
                    running[pool.submit(_in_child, jobs[at], at, told)] = at
                waiting = set(running)
                while waiting:
                    done, waiting = wait(waiting, _TELL_EVERY_S, FIRST_COMPLETED)
                    for future in done:
                        outcomes[running[future]] = future.result()
                        shares[running[future]] = 1.0
                    _take(told, shares)
                    line.show(sum(shares))
            except BrokenProcessPool:
                # A worker died; which file it had is unknown, so all that are left count.
                for at in [a for a in left if a not in outcomes]:
                    tries[at] += shares[at] > 0.0
                    if tries[at] >= _MOST_TRIES:
                        told_why = f"its worker died {_MOST_TRIES} times"
                        outcomes[at] = Outcome(jobs[at].path.name, error=told_why)
                    shares[at] = 0.0
            except KeyboardInterrupt:
                pool.shutdown(wait=False, cancel_futures=True)
                raise
    line.clear()
    return [outcomes[at] for at in range(len(jobs))]


def _take(told: Any, shares: list[float]) -> None:
    try:
        while True:
            at, share = told.get_nowait()
            shares[at] = max(shares[at], share)
    except queue.Empty:
        pass


def _in_child(job: FileJob, at: int, told: Any) -> Outcome:
    from zesty_cli.library_output import silence_libraries

    silence_libraries()
    last = 0.0

    def tell(progress: Progress) -> None:
        nonlocal last
        now = time.monotonic()
        if now - last > _TELL_EVERY_S:
            last = now
            told.put((at, progress.share))

    told.put((at, 0.001))
    return _outcome(job, tell)


class _Line:
    """One line of progress over all files on a terminal; silent elsewhere."""

    def __init__(self, files: int) -> None:
        self._files = files
        self._visible = sys.stderr.isatty()
        self._start = self._last = time.monotonic()

    def show(self, done: float) -> None:
        """Draw: how many files are done, and the time left."""
        now = time.monotonic()
        if not self._visible or now - self._last < _TELL_EVERY_S:
            return
        self._last = now
        spent = now - self._start
        left = spent / max(done, 1e-3) * (self._files - done)
        sys.stderr.write(
            f"\r\x1b[K{done / self._files:5.0%}  {int(done)} of {self._files} files, "
            f"about {left:.0f} s left"
        )
        sys.stderr.flush()

    def clear(self) -> None:
        """Leave the line empty."""
        if self._visible:
            sys.stderr.write("\r\x1b[K")
