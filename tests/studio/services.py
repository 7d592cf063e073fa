"""PostgreSQL and Redis from the system's packages, on ports of their own, to be restarted at will."""

from __future__ import annotations

import os
import pwd
import shutil
import subprocess
import tempfile
import time
from pathlib import Path

from tests.journeys.conftest import free_port

_WAIT_S = 20


class Postgres:
    """A cluster in a temporary folder; for root, who may not run it, as its package's user."""

    def __init__(self):
        self.folder = Path(tempfile.mkdtemp(prefix="zesty-postgres-"))
        self.port = free_port()
        self._binaries = newest(Path("/usr/lib/postgresql").glob("*/bin"))
        self._run("initdb", "--pgdata", self._data, "--username", "zesty", "--auth", "trust")
        self.start()
        self._run(
            "createdb", "--host", "127.0.0.1", "--port", self.port, "--username", "zesty", "zesty"
        )
        self.url = f"postgresql://zesty@127.0.0.1:{self.port}/zesty"

    @property
    def _data(self):
        return self.folder / "data"

    def _run(self, program, *arguments):
        command = [str(self._binaries / program), *map(str, arguments)]
        if os.geteuid() == 0:
            owner = pwd.getpwnam("postgres")
            os.chown(self.folder, owner.pw_uid, owner.pw_gid)
            command = ["runuser", "-u", "postgres", "--", *command]
        subprocess.run(command, check=True, stdout=subprocess.DEVNULL, cwd="/")

    def _control(self, *arguments):
        self._run("pg_ctl", "--pgdata", self._data, "--wait", "--silent", *arguments)

    def start(self):
        options = f"-p {self.port} -k {self.folder} -c listen_addresses=127.0.0.1 -c fsync=off"
        self._control("start", "--options", options, "--log", self.folder / "log")

    def restart(self, mode="fast", pause_s=0.0):
        """Gone for a while; "immediate" is a crash."""
        self._control("stop", "--mode", mode)
        time.sleep(pause_s)
        self.start()

    def close(self):
        self._control("stop", "--mode", "immediate")
        shutil.rmtree(self.folder, ignore_errors=True)


class Redis:
    """A queue that keeps nothing when it is restarted: the worst that can happen to it."""

    def __init__(self):
        self.port = free_port()
        self.url = f"redis://127.0.0.1:{self.port}/0"
        self.start()

    def start(self):
        command = ["redis-server", "--port", str(self.port), "--bind", "127.0.0.1"]
        self._process = subprocess.Popen(
            [*command, "--save", "", "--appendonly", "no"], stdout=subprocess.DEVNULL, cwd="/tmp"
        )
        ping = ["redis-cli", "-p", str(self.port), "ping"]
        deadline = time.monotonic() + _WAIT_S
        while subprocess.run(ping, capture_output=True, check=False).stdout.strip() != b"PONG":
            assert time.monotonic() < deadline
            time.sleep(0.05)

    def restart(self, pause_s=0.0):
        self._process.kill()
        self._process.wait()
        time.sleep(pause_s)
        self.start()

    def close(self):
        self._process.kill()
        self._process.wait()


def newest(folders):
    found = sorted(folders, key=lambda folder: int(folder.parent.name))
    assert found, "PostgreSQL is not installed: make test-studio installs it"
    return found[-1]
