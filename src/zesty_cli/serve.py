"""``zesty serve``, ``zesty demo``, ``zesty worker``: the web process and its workers, kept alive."""

from __future__ import annotations

import argparse
import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path
from types import FrameType

from zesty_core.errors import BadInput

_WORKERS = 2  # measuring a new recording must not wait for an hour-long run
_LOOK_EVERY_S = 1.0
_ABANDONED_EVERY_S = 3.0
_SETTINGS = "zesty_server.config.settings"


def serve_command(options: argparse.Namespace) -> int:
    """Prepare the database, start everything, restart what dies, until told to stop."""
    prepare_server()
    _begin_library(options)
    with _Processes() as processes:
        for _ in range(_WORKERS):
            processes.start("worker", _worker_command())
        if options.command != "worker":
            _check_port(options.port)
            processes.start("web", _web_command(options.port))
            _wait_for(options.port)
            print(f"Zesty Voice is at http://127.0.0.1:{options.port}/  (Ctrl+C stops it)")
            sys.stdout.flush()
        processes.watch()
    return 0


def prepare_server() -> None:
    """Read the server's settings and bring its database up to date."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", _SETTINGS)
    import django

    django.setup()
    from django.core.management import call_command
    from django.db.utils import OperationalError

    try:
        call_command("migrate", verbosity=0)
    except OperationalError as fault:
        raise BadInput(f"The database cannot be used: {str(fault).splitlines()[0]}") from None


def _begin_library(options: argparse.Namespace) -> None:
    """What there is from the first start on; of accounts, each has its own from its making on."""
    from django.conf import settings

    from zesty_server.accounts.selectors import accounts
    from zesty_server.starters import add_starters

    if settings.ACCOUNTS:
        if options.command == "demo":
            raise BadInput(
                "demo: loads for one person; unset ZESTY_ACCOUNTS, load it, set it again"
            )
        if not accounts().exists():
            print("There is no account yet. Make one: zesty account add NAME", file=sys.stderr)
        return
    add_starters()
    if options.command == "demo":
        _load_demo(options.samples)


def _load_demo(samples: str | None) -> None:
    from zesty_server.demo import load_demo

    folder = Path(samples) if samples else Path.cwd() / "samples" / "recordings"
    load_demo(folder, say=print)


def _worker_command() -> list[str]:
    from zesty_server.jobs.waiting import worker_command

    return [sys.executable, "-m", "django", *worker_command()]


def _web_command(port: int) -> list[str]:
    return [
        sys.executable,
        "-m",
        "gunicorn",
        "zesty_server.config.wsgi:application",
        "--bind",
        f"127.0.0.1:{port}",
        "--worker-class",
        "gthread",
        "--threads",
        "8",
        "--timeout",
        "120",
        "--log-level",
        "warning",
    ]


def _check_port(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            raise BadInput(f"--port: {port} is in use; name another") from None


def _wait_for(port: int) -> None:
    for _ in range(200):
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) == 0:
                return
        time.sleep(0.1)


class _Processes:
    """Child processes that are started again when they die, and stopped together."""

    def __init__(self) -> None:
        self._running: list[tuple[str, list[str], subprocess.Popen[bytes]]] = []
        self._stop = False

    def __enter__(self) -> _Processes:
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, self._on_signal)
        return self

    def __exit__(self, *error: object) -> None:
        for _, _, process in self._running:
            process.terminate()
        for _, _, process in self._running:
            try:
                process.wait(10)
            except subprocess.TimeoutExpired:
                process.kill()

    def start(self, name: str, command: list[str]) -> None:
        """Start a child in a process group of its own, so that Ctrl+C reaches only us."""
        process = subprocess.Popen(command, start_new_session=True)
        self._running.append((name, command, process))

    def watch(self) -> None:
        """Until told to stop: restart the dead, take up abandoned work."""
        from zesty_server.jobs.abandoned import take_up_all_abandoned

        last = 0.0
        while not self._stop:
            for index, (name, command, process) in enumerate(self._running):
                if process.poll() is not None and not self._stop:
                    print(f"zesty: the {name} process ended; starting it again", file=sys.stderr)
                    again = subprocess.Popen(command, start_new_session=True)
                    self._running[index] = (name, command, again)
            if time.monotonic() - last > _ABANDONED_EVERY_S:
                last = time.monotonic()
                try:
                    take_up_all_abandoned()
                except Exception as fault:
                    # Database or queue may be away for a while; what runs goes on.
                    print(f"zesty: lost work was not looked for: {fault}", file=sys.stderr)
            time.sleep(_LOOK_EVERY_S)

    def _on_signal(self, number: int, frame: FrameType | None) -> None:
        self._stop = True
