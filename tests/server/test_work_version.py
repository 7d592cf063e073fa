"""Two windows on one recording: a change made on an older version replaces nothing."""

from __future__ import annotations

import json

import pytest

from zesty_server.recordings.models import Recording
from zesty_server.recordings.work import set_chain
from zesty_server.recordings.work_version import ChangedElsewhere

GAIN = {"type": "gain", "params": {"gain_db": 3}}
CHANGES = [
    ("put", "chain/", {"steps": [GAIN]}),
    ("put", "edits/", {"cuts": [{"start_s": 0, "end_s": 1}]}),
    ("put", "ends/", {"head_s": 0.5}),
]


def change(api, recording, change_, **more):
    method, path, body = change_
    return api(method, f"recordings/{recording['id']}/{path}", json.dumps({**body, **more}))


@pytest.mark.parametrize("first", CHANGES, ids=lambda c: c[1])
@pytest.mark.parametrize("second", CHANGES, ids=lambda c: c[1])
def test_the_older_window_replaces_nothing_and_is_told(api, recording, first, second):
    seen = api("get", f"recordings/{recording['id']}/").json()["work_version"]
    newer = change(api, recording, first, work_version=seen)
    assert newer.status_code == 200, newer.content
    assert newer.json()["work_version"] == seen + 1
    refused = change(api, recording, second, work_version=seen)
    assert refused.status_code == 409
    fault = refused.json()["error"]
    assert (fault["code"], fault["path"]) == ("changed_elsewhere", "work_version")
    assert "Morning tide" in fault["message"]
    now = api("get", f"recordings/{recording['id']}/").json()
    kept = ("chain", "cuts", "pad_start_s", "work_version")
    assert {k: now[k] for k in kept} == {k: newer.json()[k] for k in kept}
    # The newer version is gone on with.
    assert change(api, recording, second, work_version=seen + 1).status_code == 200


def test_a_script_that_names_no_version_is_not_held_up(api, recording):
    for _ in range(2):
        assert change(api, recording, CHANGES[0]).status_code == 200
    assert api("get", f"recordings/{recording['id']}/").json()["work_version"] == 3


def test_a_recipe_applied_from_the_list_counts_as_a_change(api, recording):
    body = {"name": "R", "steps": [GAIN]}
    recipe = api("post", "recipes/", json.dumps(body)).json()
    path = f"recordings/{recording['id']}/apply-recipe/"
    assert api("post", path, json.dumps({"recipe": recipe["id"]})).json()["work_version"] == 2
    refused = api("post", path, json.dumps({"recipe": recipe["id"], "work_version": 1}))
    assert refused.status_code == 409


def test_what_both_read_before_either_wrote_is_stored_once(api, recording):
    """The rows are compared by the database, not by what was read of them before."""
    one, other = (Recording.objects.get(pk=recording["id"]) for _ in range(2))
    set_chain(one, [GAIN], one.work_version)
    with pytest.raises(ChangedElsewhere):
        set_chain(other, [], other.work_version)
    assert Recording.objects.get(pk=one.pk).chain[0]["type"] == "gain"
