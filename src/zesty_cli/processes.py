"""Child processes of ``zesty serve`` and ``zesty worker``: kept alive, and ended with their parent."""

from __future__ import annotations

import signal
import subprocess
import sys
import time
from types import FrameType

from zesty_server.jobs.outages import drop_connection
from zesty_server.jobs.watch import LOOK_EVERY_S, Watch
from zesty_server.lifeline import Lifeline

_POLL_EVERY_S = 0.5
_STOPPING_S = 10.0


class Processes:
    """Children that are started again when they die, and stopped together."""

    def __init__(self) -> None:
        self._running: list[tuple[str, list[str], subprocess.Popen[bytes]]] = []
        self._stop = False
        self._lifeline = Lifeline()
        self._is_away = False

    def __enter__(self) -> Processes:
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, self._on_signal)
        return self

    def __exit__(self, *error: object) -> None:
        for _, _, process in self._running:
            process.terminate()
        deadline_s = time.monotonic() + _STOPPING_S
        for _, _, process in self._running:
            try:
                process.wait(max(0.0, deadline_s - time.monotonic()))
            except subprocess.TimeoutExpired:
                process.kill()

    def start(self, name: str, command: list[str]) -> None:
        """Start a child."""
        self._running.append((name, command, self._started(command)))

    def _started(self, command: list[str]) -> subprocess.Popen[bytes]:
        # In a session of its own, so that Ctrl+C reaches only us.
        return subprocess.Popen(
            command,
            start_new_session=True,
            env=self._lifeline.environment(),
            pass_fds=(self._lifeline.read_end,),
        )

    def watch(self) -> None:
        """Until told to stop: start the dead again, take up abandoned work."""
        watch, last_s = Watch(), float("-inf")
        while not self._stop:
            for index, (name, command, process) in enumerate(self._running):
                if process.poll() is not None and not self._stop:
                    print(f"zesty: the {name} process ended; starting it again", file=sys.stderr)
                    self._running[index] = (name, command, self._started(command))
            if time.monotonic() - last_s >= LOOK_EVERY_S:
                last_s = time.monotonic()
                self._look(watch)
            time.sleep(_POLL_EVERY_S)

    def _look(self, watch: Watch) -> None:
        try:
            watch.look()
            self._is_away = False
        except Exception as fault:
            # Database or queue may be away for a while; what runs goes on.
            drop_connection()
            if not self._is_away:
                reason = str(fault).strip().partition("\n")[0]
                print(f"zesty: database or queue is away: {reason}", file=sys.stderr)
            self._is_away = True

    def _on_signal(self, number: int, frame: FrameType | None) -> None:
        self._stop = True
