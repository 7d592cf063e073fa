"""Wakes workers of this machine when work was queued, so that an idle one need not poll.

Each worker holds a FIFO of its own open in the data folder; one byte written to it ends its wait.
Several machines may share the folder: names carry the host, and only FIFOs of this host are touched.
"""

from __future__ import annotations

import contextlib
import os
import select
import socket
from pathlib import Path
from types import TracebackType

from django.conf import settings

_SUFFIX = ".fifo"


def _prefix() -> str:
    return f"wake-{socket.gethostname()}-"


def wake_workers() -> None:
    """End the wait of every worker of this machine."""
    for path in Path(settings.WORK_FOLDER).glob(f"{_prefix()}*{_SUFFIX}"):
        try:
            fifo = os.open(path, os.O_WRONLY | os.O_NONBLOCK)
        except OSError:
            path.unlink(missing_ok=True)  # nobody holds it: its worker was killed
            continue
        with contextlib.suppress(BlockingIOError, BrokenPipeError):
            os.write(fifo, b"\0")
        os.close(fifo)


class Bell:
    """What one worker waits at."""

    def __enter__(self) -> Bell:
        self._path = Path(settings.WORK_FOLDER) / f"{_prefix()}{os.getpid()}{_SUFFIX}"
        self._path.unlink(missing_ok=True)
        os.mkfifo(self._path, 0o600)
        # Open for writing too, so that it never reads as ended.
        self._fifo = os.open(self._path, os.O_RDWR | os.O_NONBLOCK)
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        os.close(self._fifo)
        self._path.unlink(missing_ok=True)

    def wait(self, longest_s: float) -> None:
        """Return when work was queued since the last wait, or after ``longest_s``."""
        ready, _, _ = select.select([self._fifo], [], [], longest_s)
        if ready:
            with contextlib.suppress(BlockingIOError):
                os.read(self._fifo, 4096)
