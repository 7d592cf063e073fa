"""Who speaks when over HTTP: found by a run, corrected by hand, kept with the recording."""

from __future__ import annotations

import json

import pytest

from tests.interview import interview
from tests.made_sound import level_db
from tests.server.conftest import wav
from tests.server.test_passages import heard, post
from tests.server.test_time_edits import edit, fetched

LEVELLER = [{"type": "leveller", "params": {"speakers": "two", "range_db": 18.0}}]


@pytest.fixture(scope="module")
def sound():
    return interview(["letters-warden", "counting-lesson"], [0.0, -10.0], turns=4)[0]


@pytest.fixture
def talk(api, sound):
    return api.upload(wav(sound), "Talk.wav").json()


def levelled(api, talk):
    api("put", f"recordings/{talk['id']}/chain/", json.dumps({"steps": LEVELLER}))
    run = api("post", "runs/", json.dumps({"recording": talk["id"]})).json()
    return api("get", f"runs/{run['id']}/").json()


def report_of(run):
    return run["points"][0]["report"]


def test_corrections_are_kept_with_the_recording_and_used_by_its_runs(api, talk):
    found = report_of(levelled(api, talk))["speakers"]
    assert [turn["speaker"] for turn in found["turns"]] == [0, 1, 0, 1]
    corrected = {"names": ["Warden", "Teacher"], "turns": found["turns"][:3]}
    before = fetched(api, talk)
    answer = edit(api, talk, speakers=corrected)
    assert answer.status_code == 200, answer.content
    after = fetched(api, talk)
    assert (after["speakers"], after["finished_at"]) == (corrected, before["finished_at"])
    run = levelled(api, talk)
    assert run["speakers"] == corrected
    assert [row["name"] for row in report_of(run)["speaker_levels"]] == ["Warden", "Teacher"]
    # Taken back, they are found anew.
    edit(api, talk, speakers=None)
    assert report_of(levelled(api, talk))["speakers"] == found


def test_a_passage_knows_of_corrections_at_once(api, talk):
    levelled(api, talk)
    settled, before, _ = heard(post(api, talk, steps=LEVELLER))
    assert settled["is_settled"]
    everything = fetched(api, talk)["measures"]["duration_s"]
    # One speaker from the start to the end: both voices stay as far apart as they were.
    turns = [{"start_s": 0.0, "end_s": everything, "speaker": 0}]
    edit(api, talk, speakers={"names": ["All"], "turns": turns})
    head, after, _ = heard(post(api, talk, steps=LEVELLER))
    assert not head["is_settled"]
    assert level_db(after[-1]) > level_db(before[-1]) + 0.3


@pytest.mark.parametrize(
    ("speakers", "words"),
    [
        ({"names": [], "turns": []}, "names"),
        ({"names": ["A"], "turns": [{"start_s": 0, "end_s": 9999, "speaker": 0}]}, "9999"),
        ({"names": ["A"], "turns": [{"start_s": 0, "end_s": 1, "speaker": 4}]}, "speaker 4"),
        ("A", "dictionary"),
    ],
)
def test_what_does_not_fit_changes_nothing(api, talk, speakers, words):
    answer = edit(api, talk, speakers=speakers)
    assert answer.status_code == 400
    assert words in json.dumps(answer.json())
    assert fetched(api, talk)["speakers"] is None
