"""A batch on the real server whose workers are killed at random, and the server with them."""

from __future__ import annotations

import io
import os
import random
import signal
import time
import zipfile
from urllib.parse import quote

import pytest
import soundfile

from tests.journeys.server_process import Server, states, until
from tests.made_sound import noise, spoken
from tests.server.conftest import wav

pytestmark = pytest.mark.journey
#: The bar is ten workers and the server twice: ``ZESTY_TEST_KILLS=10``. Fewer here, for time.
WORKER_KILLS = int(os.environ.get("ZESTY_TEST_KILLS", "4"))
FILES = WORKER_KILLS + 2


@pytest.fixture
def server(tmp_path):
    made = Server(tmp_path)
    yield made
    made.stop()


def test_no_file_is_lost_or_doubled(server):
    chance = random.Random(7)
    for number in range(FILES):
        sound = 0.3 * spoken(4, seed=number) + noise(-60, 4, seed=number)
        path = f"/api/recordings/upload/?name={quote(f'take {number}.wav')}"
        server.ask("POST", path, wav(sound), "application/octet-stream")
    until(lambda: all(r["state"] == "done" for r in server.json("GET", "/api/recordings/")))
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
    until(lambda: all(s not in ("waiting", "running") for s in states(server, path)))
    for run in server.json("GET", path)["runs"]:
        if run["state"] == "failed":
            assert "Stopped 3 times" in run["error"]
            server.json("POST", f"/api/runs/{run['id']}/retry/")
    until(lambda: set(states(server, path)) == {"done"})
    runs = server.json("GET", path)["runs"]
    assert sorted(r["recording"] for r in runs) == sorted(ids)
    assert all(rule["is_met"] for r in runs for rule in r["delivery"]["rules"])
    archive = zipfile.ZipFile(io.BytesIO(server.ask("GET", f"{path}download/")))
    names = [n for n in archive.namelist() if n.endswith(".mp3")]
    assert sorted(names) == sorted(f"take {n}.mp3" for n in range(FILES))
    for name in names:
        assert soundfile.info(io.BytesIO(archive.read(name))).frames > 0
