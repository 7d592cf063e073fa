"""Child processes of ``zesty serve`` and ``zesty worker``: kept alive, and ended with their parent."""

from __future__ import annotations

import signal
import subprocess
import sys
import time
from types import FrameType
from typing import TYPE_CHECKING

from zesty_server.lifeline import Lifeline

if TYPE_CHECKING:  # needs the server's settings, which are read while the first child starts
    from zesty_server.jobs.watch import Watch

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

    def start(self, name: str, command: list[str], *, held: bool = False) -> None:
        """Start a child; one that is held reads ``--held`` and waits for the end of its input, which
        :meth:`release` closes."""
        process = self._started([*command, "--held"] if held else command, held)
        self._running.append((name, command, process))

    def release(self) -> None:
        """Let the children go on that are held."""
        for _, _, process in self._running:
            if process.stdin:
                process.stdin.close()

    def _started(self, command: list[str], held: bool = False) -> subprocess.Popen[bytes]:
        # In a session of its own, so that Ctrl+C reaches only us.
        return subprocess.Popen(
            command,
            stdin=subprocess.PIPE if held else None,
            start_new_session=True,
            env=self._lifeline.environment(),
            pass_fds=(self._lifeline.read_end,),
        )

    def watch(self) -> None:
        """Until told to stop: start the dead again, take up abandoned work."""
        from zesty_server.jobs.watch import LOOK_EVERY_S, Watch

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
        from zesty_server.jobs.outages import drop_connection

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
