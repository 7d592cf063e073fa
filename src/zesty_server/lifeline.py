"""Ends a child process when its parent ends, however that ends.

The parent keeps the write end of a pipe and hands the read end to its children by number. The system
closes the write end when the parent is gone, even when it was killed.
"""

from __future__ import annotations

import os
import signal
import threading

_VARIABLE = "ZESTY_LIFELINE"


class Lifeline:
    """The parent's end."""

    def __init__(self) -> None:
        self.read_end, self._write_end = os.pipe()

    def environment(self) -> dict[str, str]:
        """Environment of a child; ``read_end`` must be passed on to it open."""
        return os.environ | {_VARIABLE: str(self.read_end)}


def end_with_parent() -> None:
    """In a child that leads its process group: end the group once the parent is gone."""
    given = os.environ.pop(_VARIABLE, "")
    if not given:
        return
    read_end = int(given)
    os.set_inheritable(read_end, False)

    def wait() -> None:
        while os.read(read_end, 1):
            pass
        os.killpg(os.getpgrp(), signal.SIGKILL)

    threading.Thread(target=wait, name="lifeline", daemon=True).start()
