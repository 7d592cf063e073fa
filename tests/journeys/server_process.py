"""The real server with its workers, to be stopped and killed."""

from __future__ import annotations

import contextlib
import json
import os
import signal
import subprocess
import sys
import time
import urllib.request
from http.cookiejar import CookieJar
from pathlib import Path
from urllib.parse import quote

from tests.journeys.conftest import free_port
from tests.made_sound import ROOT
from tests.server.conftest import wav


class Server:
    """``zesty serve`` in a process group of its own, and a client that carries its token."""

    def __init__(self, data, **environment):
        self.data, self.port = Path(data), free_port()
        self.environment = (
            os.environ | {"ZESTY_DATA": str(data), "ZESTY_LEASE_S": "2"} | environment
        )
        self.environment.pop("ZESTY_TASKS", None)
        self.cookies = CookieJar()
        handler = urllib.request.HTTPCookieProcessor(self.cookies)
        self.opener = urllib.request.build_opener(handler)
        self.start()

    def start(self):
        command = [sys.executable, "-m", "zesty_cli.main", "serve", "--port", str(self.port)]
        self.log = self.data / "server.log"
        with self.log.open("ab") as log:
            self.process = subprocess.Popen(
                command, env=self.environment, cwd=ROOT, stderr=log, stdout=log
            )
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            try:
                self.ask("GET", "/recordings")
                return
            except OSError:
                time.sleep(0.2)
        raise AssertionError("the server does not come up")

    def ask(self, method, path, body=None, kind="application/json"):
        token = next((c.value for c in self.cookies if c.name == "csrftoken"), "")
        request = urllib.request.Request(
            f"http://127.0.0.1:{self.port}{path}",
            data=body,
            method=method,
            headers={"X-CSRFToken": token, "Content-Type": kind},
        )
        with self.opener.open(request, timeout=60) as answer:
            return answer.read()

    def json(self, method, path, body=None):
        sent = None if body is None else json.dumps(body).encode()
        return json.loads(self.ask(method, path, sent))

    def children(self):
        ps = ["ps", "-ww", "-o", "pid=,args=", "--ppid", str(self.process.pid)]
        said = subprocess.run(ps, capture_output=True, text=True, check=True).stdout
        return [line.strip().split(None, 1) for line in said.splitlines()]

    def workers(self):
        return [int(pid) for pid, args in self.children() if "jobs.worker" in args]

    def kill(self):
        """Only the parent: its children have to notice by themselves."""
        os.kill(self.process.pid, signal.SIGKILL)
        self.process.wait()

    def stop(self):
        self.process.terminate()
        self.process.wait(20)

    def busy_worker(self):
        """The worker that computes just now; None where none does."""
        before = {pid: processor_ticks(pid) for pid in self.workers()}
        time.sleep(0.08)
        used = {pid: processor_ticks(pid) - ticks for pid, ticks in before.items()}
        pid = max(used, key=used.get, default=None)
        return pid if pid is not None and used[pid] >= 3 else None

    def bring_in(self, name, sound):
        """The id of a new recording, once it is measured."""
        path = f"/api/recordings/upload/?name={quote(name)}"
        made = json.loads(self.ask("POST", path, wav(sound), "application/octet-stream"))
        until(lambda: self.state(f"/api/recordings/{made['id']}/") == "done")
        return made["id"]

    def state(self, path):
        return self.json("GET", path)["state"]


def processor_ticks(pid):
    """Hundredths of a second of processor time that a process has taken."""
    with contextlib.suppress(OSError):
        return sum(
            map(int, Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[11:13])
        )
    return 0


def states(server, path):
    return [run["state"] for run in server.json("GET", path)["runs"]]


def until(done, wait_s=120):
    deadline = time.monotonic() + wait_s
    while not done():
        assert time.monotonic() < deadline
        time.sleep(0.2)
