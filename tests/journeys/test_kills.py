"""A batch on the real server whose workers are killed at random, and the server with them."""

from __future__ import annotations

import contextlib
import io
import json
import os
import random
import signal
import subprocess
import sys
import time
import urllib.request
import zipfile
from http.cookiejar import CookieJar
from urllib.parse import quote

import pytest
import soundfile

from tests.journeys.conftest import free_port
from tests.made_sound import ROOT, noise, spoken
from tests.server.conftest import wav

pytestmark = pytest.mark.journey
#: The bar is ten workers and the server twice: ``ZESTY_TEST_KILLS=10``. Fewer here, for time.
WORKER_KILLS = int(os.environ.get("ZESTY_TEST_KILLS", "4"))
FILES = WORKER_KILLS + 2


class Server:
    """``zesty serve`` in a process group of its own, and a client that carries its token."""

    def __init__(self, data):
        self.port = free_port()
        self.environment = os.environ | {"ZESTY_DATA": str(data), "ZESTY_LEASE_S": "2"}
        self.cookies = CookieJar()
        handler = urllib.request.HTTPCookieProcessor(self.cookies)
        self.opener = urllib.request.build_opener(handler)
        self.start()

    def start(self):
        command = [sys.executable, "-m", "zesty_cli.main", "serve", "--port", str(self.port)]
        self.process = subprocess.Popen(
            command, env=self.environment, cwd=ROOT, stderr=subprocess.DEVNULL
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
        """As a power cut would: everything at once, nothing told."""
        pids = [int(pid) for pid, _ in self.children()]
        os.kill(self.process.pid, signal.SIGKILL)
        self.process.wait()
        for pid in pids:
            ps = ["pgrep", "-P", str(pid)]
            inner = subprocess.run(ps, capture_output=True, text=True, check=False).stdout.split()
            for one in (pid, *map(int, inner)):
                with contextlib.suppress(ProcessLookupError):
                    os.kill(one, signal.SIGKILL)


@pytest.fixture
def server(tmp_path):
    made = Server(tmp_path)
    yield made
    made.process.terminate()
    made.process.wait(20)


def test_no_file_is_lost_or_doubled(server):
    chance = random.Random(7)
    for number in range(FILES):
        sound = 0.3 * spoken(4, seed=number) + noise(-60, 4, seed=number)
        path = f"/api/recordings/upload/?name={quote(f'take {number}.wav')}"
        server.ask("POST", path, wav(sound), "application/octet-stream")
    until(server, lambda: all(r["state"] == "done" for r in server.json("GET", "/api/recordings/")))
    ids = [r["id"] for r in server.json("GET", "/api/recordings/")]
    recipe = server.json("GET", "/api/recipes/")[0]["id"]
    target = next(
        t["id"] for t in server.json("GET", "/api/targets/") if t["name"] == "Podcast, mono"
    )
    order = {"recordings": ids, "recipe": recipe, "target": target}
    batch = server.json("POST", "/api/batches/", order)["id"]
    for turn in range(WORKER_KILLS):
        time.sleep(chance.uniform(0.3, 1.2))
        workers = server.workers()
        if workers:
            os.kill(chance.choice(workers), signal.SIGKILL)
        if turn in (1, 7):
            server.kill()
            server.start()
    path = f"/api/batches/{batch}/"
    # What was hit three times says so and is tried again by hand, as a person would.
    until(server, lambda: all(s not in ("waiting", "running") for s in states(server, path)))
    for run in server.json("GET", path)["runs"]:
        if run["state"] == "failed":
            assert "Stopped 3 times" in run["error"]
            server.json("POST", f"/api/runs/{run['id']}/retry/")
    until(server, lambda: set(states(server, path)) == {"done"})
    runs = server.json("GET", path)["runs"]
    assert sorted(r["recording"] for r in runs) == sorted(ids)
    assert all(rule["is_met"] for r in runs for rule in r["delivery"]["rules"])
    archive = zipfile.ZipFile(io.BytesIO(server.ask("GET", f"{path}download/")))
    names = [n for n in archive.namelist() if n.endswith(".mp3")]
    assert sorted(names) == sorted(f"take {n}.mp3" for n in range(FILES))
    for name in names:
        assert soundfile.info(io.BytesIO(archive.read(name))).frames > 0


def states(server, path):
    return [run["state"] for run in server.json("GET", path)["runs"]]


def until(server, done, wait_s=120):
    deadline = time.monotonic() + wait_s
    while not done():
        assert time.monotonic() < deadline
        time.sleep(0.3)
