"""The server's processes: ended with their parent, soon there again, patient with slow clients."""

from __future__ import annotations

import json
import os
import socket
import time

import pytest

from tests.journeys.server_process import Server, until
from tests.made_sound import noise, spoken
from tests.server.conftest import wav

pytestmark = pytest.mark.journey
STALLED = 200


@pytest.fixture
def server(tmp_path):
    made = Server(tmp_path, ZESTY_LEASE_S="30")
    yield made
    made.stop()


def runs(pid):
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    return True


def test_children_end_with_a_parent_that_is_killed(server):
    children = [int(pid) for pid, _ in server.children()]
    assert len(children) == 3
    server.kill()
    until(lambda: not any(runs(pid) for pid in children), 5)
    begun = time.monotonic()
    server.start()  # on the same port, which nobody holds any more
    print(f"served {time.monotonic() - begun:.1f} s after the kill")
    assert server.json("GET", "/api/recordings/") == []


def stalled(port, sent):
    """A client that has sent this much and says nothing more."""
    client = socket.create_connection(("127.0.0.1", port))
    client.sendall(sent)
    return client


def test_stalled_clients_hold_up_nobody(server):
    recording = server.bring_in("tide.wav", 0.3 * spoken(8) + noise(-60, 8))
    head = b"POST /api/account/sign-in/ HTTP/1.1\r\nHost: localhost\r\n"
    get = f"GET /api/recordings/{recording}/audio/ HTTP/1.1\r\nHost: localhost\r\n\r\n".encode()
    beginnings = (
        head + b"Content-Length: 100\r\n\r\n{",  # half a body
        head,  # half a head
        b"",  # nothing
        get,  # asks, and takes nothing of the answer
    )
    clients = [stalled(server.port, beginnings[n % 4]) for n in range(STALLED)]
    span = {"steps": [{"type": "compressor"}], "start_s": 1.0, "end_s": 6.0}
    slowest_s = 0.0
    for _ in range(5):
        for method, path, body in (
            ("GET", "/recordings", None),
            ("GET", "/api/recordings/", None),
            ("POST", f"/api/recordings/{recording}/passage/", span),
            ("GET", f"/api/recordings/{recording}/audio/", None),
        ):
            begun = time.monotonic()
            sent = None if body is None else json.dumps(body).encode()
            assert server.ask(method, path, sent)
            slowest_s = max(slowest_s, time.monotonic() - begun)
    print(f"slowest answer beside {STALLED} stalled clients: {slowest_s:.2f} s")
    # New work still begins.
    server.bring_in("more.wav", 0.3 * spoken(4, seed=5) + noise(-60, 4, seed=5))
    for client in clients:
        client.close()


def test_work_begins_soon_after_a_long_rest(server):
    """Workers wait to be woken: a new recording is begun with at once, however long nothing came."""
    time.sleep(3.0)
    sound = wav(0.3 * spoken(4) + noise(-60, 4))
    waits_s = []
    for n in range(3):
        body = sound[:-3] + bytes([n, 0, 0])
        made = server.ask(
            "POST", f"/api/recordings/upload/?name={n}.wav", body, "application/octet-stream"
        )
        begun = time.monotonic()
        path = f"/api/recordings/{json.loads(made)['id']}/"
        until(lambda path=path: server.state(path) != "waiting", 20)
        waits_s.append(time.monotonic() - begun)
        time.sleep(1.0)
    print("begun after", [round(s, 2) for s in waits_s])
