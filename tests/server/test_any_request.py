"""Requests made up from the API's own description: no answer of 500 or above, each as described.

By a property-based tool (schemathesis) over every operation, as one who is signed in, one who is not,
and one whom nothing here belongs to. Half of the ids are those of rows that are there.
"""

from __future__ import annotations

import json
import os
import time
from collections import Counter
from contextlib import contextmanager

import pytest
import schemathesis
from django.core.signals import request_finished, request_started
from django.db import close_old_connections
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from schemathesis.checks import not_a_server_error
from schemathesis.core.failures import FailureGroup
from schemathesis.generation import GenerationMode
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from tests.made_sound import noise
from tests.server.conftest import wav
from zesty_server.config.wsgi import application

CHECKS = [
    not_a_server_error,
    status_code_conformance,
    content_type_conformance,
    response_schema_conformance,
]
#: Requests for each operation and session: more by ``ZESTY_TEST_REQUESTS``.
EXAMPLES = int(os.environ.get("ZESTY_TEST_REQUESTS", "4"))
#: All three sessions together stay under two minutes.
FEWEST = 300
LONGEST_S = 38.0 * max(1.0, EXAMPLES / 4)

#: What an id in an address is one of.
KINDS = (
    "recordings",
    "uploads",
    "room-tones",
    "recipes",
    "saved-settings",
    "runs",
    "blind-picks",
    "tastings",
    "batches",
    "targets",
    "beds",
    "mixes",
    "house-voices",
    "deliveries",
)


@pytest.fixture
def world(warden, take):
    """One account's rows of most kinds, by kind."""
    recording = warden.upload(take).json()["id"]
    chain = {"steps": [{"type": "gain", "params": {"gain_db": -3.0}}]}
    warden("put", f"recordings/{recording}/chain/", json.dumps(chain))
    warden.send(
        "post", f"recordings/{recording}/mark-room-tone/", start_s=0.5, end_s=1.5, name="Shed"
    )
    run = warden.send("post", "runs/", recording=recording).json()["id"]
    batch = warden.send("post", "batches/", recordings=[recording], recipe=None).json()["id"]
    bed = warden(
        "post", "beds/upload/?name=tide.wav", wav(noise(-30, 4)), "application/octet-stream"
    ).json()
    warden.send("post", "mixes/", run=run, bed=bed["id"])
    warden.send("post", "house-voices/", name="Shed voice", recordings=[recording])
    warden.send("post", "uploads/", name="late.wav", size_bytes=1000, modified_ms=1)
    ids = {kind: [row["id"] for row in warden("get", f"{kind}/").json()] for kind in LISTED}
    deliveries = [r["delivery"]["id"] for r in warden("get", f"batches/{batch}/").json()["runs"]]
    return ids | {"deliveries": deliveries}


LISTED = [kind for kind in KINDS if kind != "deliveries"]


@pytest.fixture
def sessions(world, warden, guide, enter):
    return {"owner": warden, "nobody": enter(), "another": guide}


@pytest.mark.parametrize("who", ["owner", "nobody", "another"])
def test_any_request_is_answered_as_described(who, world, sessions, tmp_path):
    browser = sessions[who]
    schema = schemathesis.openapi.from_dict(description())
    schema.app = application
    cookies = {name: cookie.value for name, cookie in browser.client.cookies.items()}
    sent = {"headers": {"X-CSRFToken": browser.token}, "cookies": cookies}
    begun, done, faults, answers = time.monotonic(), 0, [], Counter()
    with connection_kept_open():
        for operation in sorted((o.ok() for o in schema.get_all_operations()), key=last_to_first):
            # A slow machine takes longer, and sends no fewer.
            if done > FEWEST and time.monotonic() - begun > LONGEST_S:
                break
            for mode in (GenerationMode.POSITIVE, GenerationMode.NEGATIVE):
                try:
                    done += tried(operation, mode, world, sent, answers)
                except FailureGroup as fault:
                    faults.append(f"{operation.label}: {fault}")
    assert not faults, "\n\n".join(faults)
    # Most are refused; enough get through to what they ask for.
    assert answers[2] > 0.1 * done or who != "owner"
    assert done > FEWEST


def last_to_first(operation):
    """Deleting goes after all else, and signing out to the end."""
    return "sign-out" in operation.path, operation.method.upper() == "DELETE"


@contextmanager
def connection_kept_open():
    """As the framework's own test client sees to it: the test's transaction lives on it."""
    for signal in (request_started, request_finished):
        signal.disconnect(close_old_connections)
    try:
        yield
    finally:
        for signal in (request_started, request_finished):
            signal.connect(close_old_connections)


def description():
    from drf_spectacular.generators import SchemaGenerator

    return json.loads(json.dumps(SchemaGenerator().get_schema(request=None, public=True)))


def tried(operation, mode, world, sent, answers):
    count = 0

    @settings(
        max_examples=EXAMPLES // 2,
        deadline=None,
        database=None,
        derandomize=True,
        phases=[Phase.explicit, Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    @given(case=operation.as_strategy(generation_mode=mode), known=st.integers(0, 5))
    def one(case, known):
        nonlocal count
        kind = operation.path.split("/")[2]
        if known < 4 and "id" in (case.path_parameters or {}) and world.get(kind):
            case.path_parameters["id"] = world[kind][known % len(world[kind])]
        for name in [
            name for name in case.headers or {} if name.lower() in ("x-csrftoken", "cookie")
        ]:
            del case.headers[name]
        answer = case.call(**sent)
        case.validate_response(answer, checks=CHECKS)
        answers[answer.status_code // 100] += 1
        count += 1

    one()
    return count
