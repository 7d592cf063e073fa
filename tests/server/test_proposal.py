"""A chain that is proposed for a recording, over HTTP."""

from __future__ import annotations

import json

from tests.made_sound import noise, spoken
from tests.server.conftest import wav
from zesty_core.targets.starters import starter
from zesty_server.recordings.models import Recording
from zesty_server.runs.models import Run


def proposal(api, recording):
    return api("get", f"recordings/{recording['id']}/proposal/")


def test_it_is_made_from_the_recording_and_its_target(api):
    recording = api.upload(wav(spoken(8) + noise(-52, 8)), "Take.wav").json()
    first = proposal(api, recording).json()
    assert [step["step"]["type"] for step in first["steps"]][-1] == "loudness"
    assert all(step["reasons"] for step in first["steps"])

    document = starter("Audiobook chapter").as_json()
    target = api("post", "targets/import/?name=ours", json.dumps(document)).json()
    api("put", f"recordings/{recording['id']}/target/", json.dumps({"target": target["id"]}))
    second = proposal(api, recording).json()
    assert second["steps"][-1]["step"]["params"]["measure"] == "rms"

    steps = [step["step"] for step in second["steps"]]
    answer = api("put", f"recordings/{recording['id']}/chain/", json.dumps({"steps": steps}))
    assert answer.status_code == 200
    assert answer.json()["chain"] == steps


def test_measures_of_another_version_are_taken_again(api):
    recording = api.upload(wav(spoken(8) + noise(-52, 8)), "Take.wav").json()
    first = proposal(api, recording).json()
    Recording.objects.get(pk=recording["id"]).kept_measures_path.unlink()
    assert proposal(api, recording).json() == first


def test_what_is_not_measured_gets_no_proposal(api):
    recording = api.upload(wav(spoken(4)), "Take.wav").json()
    Recording.objects.filter(pk=recording["id"]).update(measures=None)
    answer = proposal(api, recording)
    assert answer.status_code == 400
    assert "not measured yet" in answer.json()["error"]["message"]


def test_a_run_of_it_tells_once_what_it_corrects(api):
    recording = api.upload(wav(spoken(8) + noise(-45, 8)), "Take.wav").json()
    steps = [step["step"] for step in proposal(api, recording).json()["steps"]]

    def corrected(chain, after=None):
        api("put", f"recordings/{recording['id']}/chain/", json.dumps({"steps": chain}))
        run = api("post", "runs/", json.dumps({"recording": recording["id"]})).json()
        if after:
            found = Run.objects.get(pk=run["id"])
            Run.objects.filter(pk=run["id"]).update(after={**found.after, **after})
        return api("get", f"runs/{run['id']}/correction/").json()

    still_heard = corrected(steps, {"clearance_db": 31.0})
    assert "31 dB under the voice" in still_heard["words"][0]
    assert [step["type"] for step in still_heard["steps"]] == [step["type"] for step in steps]
    assert still_heard["steps"] != steps
    # Of any other chain, its own correction among them, nothing comes back.
    nothing = {"words": [], "steps": []}
    assert corrected(still_heard["steps"], {"clearance_db": 31.0}) == nothing
    assert corrected(steps, {"clearance_db": 60.0}) == nothing
