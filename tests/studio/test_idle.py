"""What a server costs that nobody uses. The figure is printed; the bar is 1 % of a core in all."""

from __future__ import annotations

import time

import pytest

from tests.journeys.server_process import Server, processor_ticks

REST_S = 20.0
#: Polling in earnest, as workers once did, takes more even on a fast machine.
MOST_SHARE = 0.04


@pytest.fixture
def server(tmp_path):
    made = Server(tmp_path, ZESTY_LEASE_S="30")
    yield made
    made.stop()


def test_an_idle_server_is_nearly_silent(server):
    server.ask("GET", "/recordings")
    pids = [server.process.pid, *(int(pid) for pid, _ in server.children())]
    settle(pids)
    before, begun = sum(map(processor_ticks, pids)), time.monotonic()
    time.sleep(REST_S)
    share = (sum(map(processor_ticks, pids)) - before) / 100 / (time.monotonic() - begun)
    print(f"idle: {100 * share:.2f} % of a core")
    assert share < MOST_SHARE


def settle(pids):
    """Wait until everything has started: two seconds with next to no work."""
    for _ in range(30):
        before = sum(map(processor_ticks, pids))
        time.sleep(2.0)
        if sum(map(processor_ticks, pids)) - before < 20:
            return
