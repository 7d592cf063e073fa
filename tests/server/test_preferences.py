"""What recordings begin with when they come in."""

from __future__ import annotations

import json

import pytest

from tests.server.test_edits import edit
from zesty_server.recordings.models import Recording
from zesty_server.runs.models import Run

NOTHING = {"recipe": None, "run_at_once": False, "target": None}
STEPS = [{"type": "gain", "params": {"gain_db": -3}}]


def prefer(api, **changes):
    return api("patch", "preferences/", json.dumps(changes))


@pytest.fixture
def recipe(api):
    return api("post", "recipes/", json.dumps({"name": "Every week", "steps": STEPS})).json()


@pytest.fixture
def target(api):
    body = {"name": "Quiet enough", "bounds": {"true_peak_dbtp": {"high": -1}}}
    return api("post", "targets/", json.dumps(body)).json()


def test_new_recordings_begin_with_what_is_preferred(api, recording, another, recipe, target):
    assert api("get", "preferences/").json() == NOTHING
    assert prefer(api, recipe=recipe["id"]).status_code == 200
    told = NOTHING | {"recipe": recipe["id"], "target": target["id"]}
    assert prefer(api, target=target["id"]).json() == told
    made = api.upload(another(4), "Evening tide.wav").json()
    assert [step["type"] for step in made["chain"]] == ["gain"]
    assert (made["recipe"], made["recipe_version"], made["target"]) == (
        recipe["id"],
        1,
        target["id"],
    )
    # What was there stays as it is.
    assert api("get", f"recordings/{recording['id']}/").json()["chain"] == []
    prefer(api, recipe=None, target=None)
    plain = api.upload(another(5), "Neap tide.wav").json()
    assert (plain["chain"], plain["recipe"], plain["target"]) == ([], None, None)


def test_what_is_deleted_is_preferred_no_longer(api, recipe, target):
    prefer(api, recipe=recipe["id"], target=target["id"])
    api("delete", f"recipes/{recipe['id']}/")
    api("delete", f"targets/{target['id']}/")
    assert api("get", "preferences/").json() == NOTHING


def runs_of(api, recording):
    return api("get", f"runs/?recording={recording['id']}").json()


def test_the_chain_runs_once_when_that_is_preferred(api, another, recipe):
    prefer(api, recipe=recipe["id"], run_at_once=True)
    made = api.upload(another(4), "Evening tide.wav").json()
    (run,) = runs_of(api, made)
    assert (run["state"], run["recipe_name"]) == ("done", "Every week")
    # Measured again because of a cut, it is not run again.
    edit(api, made, [(0.0, 0.5)])
    assert api("get", f"recordings/{made['id']}/").json()["measures"]["duration_s"] < 5.0
    assert len(runs_of(api, made)) == 1
    prefer(api, run_at_once=False)
    assert runs_of(api, api.upload(another(5), "Neap tide.wav").json()) == []


def test_a_worker_that_died_after_measuring_does_not_cost_the_run(api, another, recipe, looking):
    prefer(api, recipe=recipe["id"], run_at_once=True)
    made = api.upload(another(4), "Evening tide.wav").json()
    Run.objects.all().delete()
    Recording.objects.update(run_when_measured=True)
    looking.after(0.0)
    looking.after()  # queued when the change is kept, which here is by the next look
    (run,) = runs_of(api, made)
    assert run["state"] == "done"


def test_without_a_recipe_nothing_runs_at_once(api, another):
    prefer(api, run_at_once=True)
    made = api.upload(another(4), "Evening tide.wav").json()
    assert runs_of(api, made) == []
    assert api("get", f"recordings/{made['id']}/").json()["state"] == "done"


@pytest.mark.parametrize("given", ["00000000-0000-4000-8000-000000000000", "soon", 5, [1]])
def test_what_is_not_there_is_refused_and_changes_nothing(api, recipe, given):
    prefer(api, recipe=recipe["id"])
    answer = prefer(api, recipe=given)
    assert answer.status_code == 400
    assert answer.json()["error"]["path"] == "recipe"
    assert api("get", "preferences/").json()["recipe"] == recipe["id"]


def test_about_tells_versions_and_limits(api, db):
    about = api("get", "about/").json()
    assert int(about["engine_version"]) >= 12
    assert about["cores"] >= 1
    assert about["largest_file_bytes"] > 1e9
