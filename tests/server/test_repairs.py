"""Events of repairs over HTTP: found by a run, refused and added by hand, kept with the recording."""

from __future__ import annotations

import json

import numpy as np
import pytest

from tests.interview import lines
from tests.made_sound import RATE, noise
from tests.server.conftest import wav
from tests.server.test_passages import heard, post
from tests.server.test_speakers import report_of
from tests.server.test_time_edits import edit, fetched

CLICK = [{"type": "click", "params": {}}]
AT = 2 * RATE


@pytest.fixture(scope="module")
def sound():
    """A line, with a click in the pause before it."""
    made = np.concatenate([np.zeros(4 * RATE), *lines("letters-warden")[:2]])[None].astype(
        np.float32
    )
    made += noise(-70, made.shape[1] / RATE, RATE)[:, : made.shape[1]]
    place = np.arange(48)
    made[0, AT : AT + 48] += 0.2 * np.exp(-place / 10) * np.cos(place)
    return made


@pytest.fixture
def take(api, sound):
    return api.upload(wav(sound), "Take.wav").json()


def run_of(api, take):
    api("put", f"recordings/{take['id']}/chain/", json.dumps({"steps": CLICK}))
    run = api("post", "runs/", json.dumps({"recording": take["id"]})).json()
    return api("get", f"runs/{run['id']}/").json()


def test_an_event_is_refused_and_another_added(api, take):
    first = run_of(api, take)
    (event,) = report_of(first)["events"]
    assert first["mended"] == {"Click": 1}
    assert event[0] == pytest.approx(2.0, abs=0.01)
    refused = {"type": "click", "start_s": event[0], "end_s": event[1]}
    added = {"type": "click", "start_s": 3.0, "end_s": 3.005}
    before = fetched(api, take)
    assert edit(api, take, repairs={"refused": [refused], "added": [added]}).status_code == 200
    after = fetched(api, take)
    # Nothing is measured anew for it.
    assert after["finished_at"] == before["finished_at"]
    assert after["repairs"] == {"refused": [refused], "added": [added]}
    run = run_of(api, take)
    assert run["repairs"] == after["repairs"]
    assert report_of(run)["refused"] == 1
    assert [row[:2] for row in report_of(run)["events"]] == [[3.0, 3.005]]
    edit(api, take, repairs=None)
    assert [row[:2] for row in report_of(run_of(api, take))["events"]] == [event[:2]]


def test_a_passage_leaves_alone_at_once_what_is_refused(api, take):
    _, sounds, _ = heard(post(api, take, steps=CLICK, start_s=1.5, end_s=2.5))
    edit(
        api,
        take,
        repairs={"refused": [{"type": "click", "start_s": 1.9, "end_s": 2.1}], "added": []},
    )
    _, again, _ = heard(post(api, take, steps=CLICK, start_s=1.5, end_s=2.5))
    assert np.abs(again[-1]).max() > 3 * np.abs(sounds[-1]).max()


@pytest.mark.parametrize(
    ("repairs", "words"),
    [
        ({"refused": []}, "added"),
        ({"refused": [], "added": [{"type": "click", "start_s": 5, "end_s": 2}]}, "from 5"),
        ({"refused": [], "added": [{"type": "click", "start_s": 5, "end_s": 9999}]}, "9999"),
        ("all", "dictionary"),
    ],
)
def test_what_does_not_fit_changes_nothing(api, take, repairs, words):
    answer = edit(api, take, repairs=repairs)
    assert answer.status_code == 400
    assert words in json.dumps(answer.json())
    assert fetched(api, take)["repairs"] is None
