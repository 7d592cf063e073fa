"""Blind picks: kept with the recording, worth what they are worth, refused when they cannot be."""

from __future__ import annotations

import json

import pytest

STEPS = [{"type": "gain", "params": {"gain_db": 3}}]


def keep(api, one, picked, **more):
    body = {"recording": one["id"], "chain": STEPS, "start_s": 1, "end_s": 4}
    return api("post", "blind-picks/", json.dumps(body | {"picked_after": picked} | more))


@pytest.mark.parametrize("path", ["blind-picks", "runs"])
def test_an_id_that_is_none_is_told(api, path):
    answer = api("get", f"{path}/?recording=nothing")
    assert answer.status_code == 400
    assert answer.json()["error"]["message"] == "recording: must be an id, got nothing"


def test_picks_are_kept_with_their_worth_and_deleted(api, recording):
    kept = keep(api, recording, [True] * 9 + [False]).json()
    assert (kept["rounds"], kept["count_after"]) == (10, 9)
    assert kept["chance"] == pytest.approx(0.0215, abs=1e-4)
    assert kept["verdict"].startswith("After was picked 9 times of 10.")
    assert kept["chain"][0]["params"] == {"gain_db": 3.0}
    keep(api, recording, [False] * 5)
    listed = api("get", f"blind-picks/?recording={recording['id']}").json()
    assert [p["rounds"] for p in listed] == [5, 10]
    assert api("delete", f"blind-picks/{kept['id']}/").status_code == 204
    api("delete", f"recordings/{recording['id']}/")
    assert api("get", "blind-picks/").json() == []


@pytest.mark.parametrize(
    ("picked", "more", "told"),
    [
        ([True] * 4, {}, "picked_after: must have 5 to 20 rounds, got 4"),
        ([True] * 21, {}, "got 21"),
        ([True] * 5, {"end_s": 99}, "passage: 1 to 99 s must lie within"),
        ([True] * 5, {"chain": [{"type": "wah"}]}, "steps[0].type"),
        ([True] * 5, {"recording": "00000000-0000-0000-0000-000000000000"}, "recording"),
        ("all", {}, "picked_after"),
    ],
)
def test_picks_that_do_not_fit(api, recording, picked, more, told):
    answer = keep(api, recording, picked, **more)
    assert answer.status_code == 400
    assert told in json.dumps(answer.json())
    assert api("get", "blind-picks/").json() == []
