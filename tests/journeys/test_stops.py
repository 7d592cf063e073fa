"""Workers that are stopped for longer than their lease, as by a laptop's lid, and let go again.

Another worker takes the work over meanwhile. Each piece is done exactly once, whole, with the bytes
of an undisturbed run, and nothing is left over.
"""

from __future__ import annotations

import hashlib
import os
import random
import signal
import time
from pathlib import Path

import pytest

from tests.journeys.server_process import Server, states, until
from tests.made_sound import noise, spoken

pytestmark = pytest.mark.journey
#: The bar is twenty runs and a batch of thirty files: ``ZESTY_TEST_STOPS=20``. Fewer here, for time.
STOPS = int(os.environ.get("ZESTY_TEST_STOPS", "1"))
FILES = min(30, 2 + 2 * STOPS)
LEASE_S = 2.0
CHAIN = [
    {"type": "normalize"},
    {"type": "noise_reduction"},
    {"type": "compressor"},
    {"type": "loudness"},
]


@pytest.fixture
def server(tmp_path):
    made = Server(tmp_path)
    yield made
    for pid in made.workers():
        os.kill(pid, signal.SIGCONT)
    made.stop()


def digests(folder):
    """What a run has made, but for the times in its receipt."""
    return {
        path.name: hashlib.sha256(path.read_bytes()).hexdigest()
        for path in Path(folder).iterdir()
        if path.name != "receipt.json"
    }


def only_folder(home):
    """The one try whose files are there."""
    (folder,) = home.iterdir()
    return folder


def sleep_through_a_lease(pid, chance):
    os.kill(pid, signal.SIGSTOP)
    time.sleep(LEASE_S * chance.uniform(1.6, 2.2))
    os.kill(pid, signal.SIGCONT)


def nothing_left_over(server):
    """No spools, and no FIFOs of workers that are gone."""
    left = [p.name for p in (server.data / "work").iterdir() if not p.name.startswith("wake-")]
    return left == []


def test_each_run_is_done_once_and_whole(server):
    chance = random.Random(11)
    recording = server.bring_in("long.wav", 0.3 * spoken(200, seed=1) + noise(-60, 200, seed=2))
    server.json("PUT", f"/api/recordings/{recording}/chain/", {"steps": CHAIN})
    undisturbed = run_once(server, recording, lambda path: None)
    stopped = []

    def disturb(path):
        time.sleep(chance.uniform(0.05, 1.0))
        until(lambda: server.busy_worker() or server.state(path) == "done")
        pid = server.busy_worker()
        if pid:
            sleep_through_a_lease(pid, chance)
            stopped.append(pid)

    for _ in range(STOPS):
        assert run_once(server, recording, disturb) == undisturbed
    assert len(stopped) >= STOPS // 2
    assert nothing_left_over(server)


def run_once(server, recording, disturb):
    """What a run has made while it was disturbed."""
    run = server.json("POST", "/api/runs/", {"recording": recording})["id"]
    path = f"/api/runs/{run}/"
    disturb(path)
    until(lambda: server.state(path) not in ("waiting", "running"))
    time.sleep(0.5)  # whoever slept finds out
    assert server.state(path) == "done"
    home = server.data / "media" / "runs" / run
    until(lambda: len(list(home.iterdir())) == 1, 30)
    return digests(only_folder(home))


def test_a_batch_is_done_once_and_whole(server):
    chance = random.Random(12)
    ids = [
        server.bring_in(f"take {n}.wav", 0.3 * spoken(20, seed=n) + noise(-60, 20, seed=n))
        for n in range(FILES)
    ]
    recipe = server.json("POST", "/api/recipes/", {"name": "Ours", "steps": CHAIN})["id"]
    targets = server.json("GET", "/api/targets/")
    target = next(t["id"] for t in targets if t["name"] == "Podcast, mono")
    made = []
    for disturbed in (False, True):
        order = {"recordings": ids, "recipe": recipe, "target": target, "name_pattern": "{title}"}
        path = f"/api/batches/{server.json('POST', '/api/batches/', order)['id']}/"
        for _ in range(STOPS if disturbed else 0):
            time.sleep(chance.uniform(0.1, 1.5))
            workers = server.workers()
            if not set(states(server, path)) & {"waiting", "running"}:
                break
            sleep_through_a_lease(chance.choice(workers), chance)
        until(lambda path=path: set(states(server, path)) == {"done"}, 300)
        runs = server.json("GET", path)["runs"]
        assert sorted(run["recording"] for run in runs) == sorted(ids)
        homes = {run["recording"]: server.data / "media" / "runs" / run["id"] for run in runs}
        for home in homes.values():
            until(lambda home=home: len(list(home.iterdir())) == 1, 30)
        made.append({recording: digests(only_folder(home)) for recording, home in homes.items()})
    assert made[0] == made[1]
    assert nothing_left_over(server)
