"""PostgreSQL and Redis come and go while a batch is at work: everything goes on by itself."""

from __future__ import annotations

import os
import random
import time

import pytest

from tests.journeys.server_process import Server, until
from tests.made_sound import noise, spoken

FILES = int(os.environ.get("ZESTY_TEST_RESTART_FILES", "16"))
RESTARTS = max(3, FILES // 6)
CHAIN = [{"type": "normalize"}, {"type": "noise_reduction"}, {"type": "compressor"}]
BACK_WITHIN_S = 30.0


@pytest.fixture
def studio(tmp_path, postgres, redis, request):
    """A server on PostgreSQL, with Redis for its queue where that is asked for."""
    more = {"DATABASE_URL": postgres.url, "ZESTY_LEASE_S": "6"}
    if request.param == "redis":
        more["REDIS_URL"] = redis.url
    made = Server(tmp_path, **more)
    yield made
    made.stop()


def answers(server):
    """Whether the server answers a question to its database."""
    try:
        return server.json("GET", "/api/recordings/") is not None
    except OSError:
        return False


def batch_of(server):
    ids = [
        server.bring_in(f"take {n}.wav", 0.3 * spoken(8, seed=n) + noise(-60, 8, seed=n))
        for n in range(FILES)
    ]
    recipe = server.json("POST", "/api/recipes/", {"name": "Ours", "steps": CHAIN})["id"]
    order = {"recordings": ids, "recipe": recipe, "name_pattern": "{title}"}
    return ids, f"/api/batches/{server.json('POST', '/api/batches/', order)['id']}/"


def finished(server, path):
    try:
        runs = server.json("GET", path)["runs"]
    except OSError:
        return False
    return not {run["state"] for run in runs} & {"waiting", "running"}


@pytest.mark.parametrize("studio", ["database", "redis"], indirect=True)
def test_a_restart_at_any_moment_loses_and_doubles_nothing(studio, postgres, redis):
    chance = random.Random(5)
    ids, path = batch_of(studio)
    slowest_s = 0.0
    for turn in range(RESTARTS):
        time.sleep(chance.uniform(0.2, 1.5))
        mode = chance.choice(["fast", "immediate"])
        postgres.restart(mode, pause_s=chance.choice([0.0, 2.0]))
        if turn % 2:
            redis.restart(pause_s=0.5)
        begun = time.monotonic()
        until(lambda: answers(studio), BACK_WITHIN_S)
        slowest_s = max(slowest_s, time.monotonic() - begun)
    ended = time.monotonic()
    until(lambda: finished(studio, path), 180)
    print(
        f"answers again within {slowest_s:.1f} s, batch ended {time.monotonic() - ended:.1f} s later"
    )
    runs = studio.json("GET", path)["runs"]
    assert [run["state"] for run in runs] == ["done"] * FILES
    assert sorted(run["recording"] for run in runs) == sorted(ids)
    for run in runs:
        assert len(list((studio.data / "media" / "runs" / run["id"]).iterdir())) == 1


@pytest.mark.parametrize("studio", ["database", "redis"], indirect=True)
def test_work_goes_on_soon_after_a_restart_at_rest(studio, postgres, redis):
    """Workers that were idle find out when something comes."""
    recording = studio.bring_in("tide.wav", 0.3 * spoken(6) + noise(-60, 6))
    studio.json("PUT", f"/api/recordings/{recording}/chain/", {"steps": CHAIN})
    postgres.restart("immediate")
    redis.restart()
    until(lambda: answers(studio), BACK_WITHIN_S)
    begun = time.monotonic()
    run = studio.json("POST", "/api/runs/", {"recording": recording})["id"]
    until(lambda: studio.state(f"/api/runs/{run}/") == "done", BACK_WITHIN_S)
    print(f"run done {time.monotonic() - begun:.1f} s after it was asked for")
