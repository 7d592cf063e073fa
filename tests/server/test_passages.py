"""Passages over HTTP: sound, levels, advice and pictures; settled by runs and in between."""

from __future__ import annotations

import io
import json
import struct

import numpy as np
import pytest
import soundfile

from tests.made_sound import RATE, level_db
from tests.server.test_edits import edit
from tests.server.test_rooms_and_ends import mark
from zesty_core.chain import runner
from zesty_core.foundation.errors import BadInput
from zesty_core.live import chain as live
from zesty_core.measures.document import measures_document
from zesty_core.steps.base import Step
from zesty_server.passages import services, sessions
from zesty_server.passages.sessions import session_for
from zesty_server.recordings.kept_measures import known_measures
from zesty_server.recordings.models import Recording

STEPS = [
    {"type": "normalize", "params": {"target_db": -3}},
    {"type": "compressor", "params": {"follow_voice": True, "threshold_db": -8, "ratio": 3}},
    {"type": "loudness", "params": {"target": -23}},
]


def post(api, recording, start_s=1.5, end_s=4.5, steps=STEPS, **more):
    body = {"steps": steps, "start_s": start_s, "end_s": end_s} | more
    return api("post", f"recordings/{recording['id']}/passage/", json.dumps(body))


def heard(answer):
    assert answer.status_code == 200, answer.content
    data, parts = b"".join(answer.streaming_content), []
    while data:
        (size,) = struct.unpack("<I", data[:4])
        parts.append(data[4 : 4 + size])
        data = data[4 + size :]
    head, samples, tail = parts
    head = json.loads(head)
    sound = np.frombuffer(samples, "<f4").reshape(
        -1, round((head["end_s"] - head["start_s"]) * RATE)
    )
    return head, sound, json.loads(tail)


def run_of(api, recording, steps=STEPS):
    api("put", f"recordings/{recording['id']}/chain/", json.dumps({"steps": steps}))
    run = api("post", "runs/", json.dumps({"recording": recording["id"]})).json()
    body = b"".join(api("get", f"runs/{run['id']}/result/").streaming_content)
    return soundfile.read(io.BytesIO(body), always_2d=True)[0].T


def test_a_passage_is_told_and_after_a_run_it_is_the_run(api, recording, take):
    head, sound, tail = heard(post(api, recording, opened=1))
    assert (head["is_settled"], head["can_settle"], sound.shape) == (False, True, (2, 3 * RATE))
    original = soundfile.read(io.BytesIO(take), always_2d=True)[0].T
    assert sound[:1] == pytest.approx(original[:, int(1.5 * RATE) : int(4.5 * RATE)])
    assert [p["type"] for p in tail["points"]] == ["normalize", "compressor", "loudness"]
    assert tail["points"][1]["sentence"].startswith("Turns down anything louder than 8 dB under")
    assert tail["points"][2]["levels"]["true_peak_dbtp"] <= -0.9
    assert len(tail["picture"]["curve"]["out_dbfs"]) > 50
    whole = run_of(api, recording)
    head, sound, tail = heard(post(api, recording, with_before=False))
    assert head["is_settled"]
    assert len(sound) == 1
    expected = whole[:, int(1.5 * RATE) : int(4.5 * RATE)]
    assert level_db(sound - expected) < level_db(expected) - 60
    assert all(p["is_settled"] for p in tail["points"])
    assert tail["picture"] is None
    # A later step changed: what is before it is known still.
    changed = [*STEPS[:2], {"type": "loudness", "params": {"target": -20}}]
    head, sound, _ = heard(post(api, recording, steps=changed, with_before=False))
    assert not head["is_settled"]
    assert level_db(sound) == pytest.approx(level_db(expected) + 3, abs=0.5)


def not_again(monkeypatch):
    """Nothing may be measured as a whole from here on."""
    for place in (runner._Run, "_measure_source"), (live, "measure"):
        monkeypatch.setattr(*place, None)


@pytest.mark.parametrize("cut", [False, True])
def test_what_is_measured_once_is_not_measured_again(api, recording, cut, monkeypatch):
    if cut:
        edit(api, recording, [(0.0, 0.5)])
    own = Recording.objects.get(pk=recording["id"])
    kept = known_measures(own, own)
    own.kept_measures_path.unlink()
    expected = run_of(api, recording)
    session_for(own)  # measures, and keeps what it found
    assert measures_document(known_measures(own, own)) == measures_document(kept)
    sessions._sessions.clear()
    with monkeypatch.context() as patched:
        not_again(patched)
        assert np.array_equal(run_of(api, recording), expected)
        assert heard(post(api, recording))[0]["is_settled"]


@pytest.mark.parametrize("spoiled", ["", "{}", "[]", '{"of": 1, "measures": 2}'])
def test_kept_measures_that_do_not_fit_are_not_used(api, recording, spoiled):
    own = Recording.objects.get(pk=recording["id"])
    assert known_measures(own, own)
    own.mono = "left"
    assert known_measures(own, own) is None
    own.mono = ""
    own.kept_measures_path.write_text(spoiled)
    assert known_measures(own, own) is None


def test_settling_makes_it_exact_without_keeping_a_result(api, recording):
    body = json.dumps({"steps": STEPS})
    points = api("post", f"recordings/{recording['id']}/settle/", body).json()["points"]
    head, sound, tail = heard(post(api, recording, with_before=False))
    assert head["is_settled"]
    assert [p["levels"] for p in tail["points"]] == [p["levels"] for p in points]
    assert api("get", f"runs/?recording={recording['id']}").json() == []
    whole = run_of(api, recording)
    expected = whole[:, int(1.5 * RATE) : int(4.5 * RATE)]
    assert level_db(sound - expected) < level_db(expected) - 60


def test_cuts_and_room_tone_change_what_is_known(api, recording):
    steps = [{"type": "noise_reduction"}]
    run_of(api, recording, steps)
    assert heard(post(api, recording, steps=steps))[0]["is_settled"]
    mark(api, recording, "boat shed", 0.2, 1.2)
    assert not heard(post(api, recording, steps=steps))[0]["is_settled"]
    edit(api, recording, [(0, 1)])
    head, sound, _ = heard(post(api, recording, 0.5, 3.5, steps=steps))
    assert not head["is_settled"]
    assert sound.shape == (2, 3 * RATE)


BAD = [
    ({"start_s": 4, "end_s": 9}, "passage: 4 to 9 s must lie within 0 and 5.000 s"),
    ({"start_s": 3, "end_s": 3}, "start before the end"),
    ({"steps": [{"type": "wah"}]}, "steps[0].type"),
    ({"steps": [{"type": "gain", "params": {"gain_db": 999}}]}, "steps[0].params.gain_db"),
    ({"start_s": "x"}, "start_s"),
]


@pytest.mark.parametrize(("wrong", "told"), BAD)
def test_what_does_not_fit_is_told_before_any_sound(api, recording, wrong, told):
    answer = post(api, recording, **wrong)
    assert answer.status_code == 400
    assert told in answer.json()["error"]["message"]


def test_an_opened_step_that_is_not_there_or_off_or_an_empty_chain(api, recording):
    assert heard(post(api, recording, opened=7))[2]["picture"] is None
    off = [{"type": "compressor", "enabled": False}]
    assert "spectrum" in heard(post(api, recording, steps=off, opened=0))[2]["picture"]
    head, sound, tail = heard(post(api, recording, steps=[]))
    assert np.array_equal(sound[0], sound[1])
    assert (head["is_settled"], tail["points"], tail["advice"]) == (True, [], [])


def test_a_fault_in_the_pictures_still_gives_the_sound(api, recording, monkeypatch):
    monkeypatch.setattr(Step, "picture", lambda *_: 1 / 0)
    _, sound, tail = heard(post(api, recording, opened=0))
    assert sound.shape == (2, 3 * RATE)
    assert "could not be made" in tail["error"]


def test_an_overtaken_settling_gives_up_and_long_recordings_are_refused(
    api, recording, monkeypatch
):
    stored = Recording.objects.get(pk=recording["id"])
    session = session_for(stored)

    def overtaken(*arguments, cancelled, **more):
        session.turn += 1
        raise services.Cancelled if cancelled() else AssertionError

    monkeypatch.setattr(services, "run_chain", overtaken)
    with pytest.raises(services.Superseded, match="has changed since"):
        services.settle(stored, STEPS)
    monkeypatch.setattr(services, "SETTLED_UP_TO_S", 2.0)
    with pytest.raises(BadInput, match="is longer than 2 s"):
        services.settle(stored, STEPS)


def test_dismissed_findings_and_the_proposed_passage_are_with_the_recording(api, recording):
    assert recording["dismissed"] == []
    span = recording["proposed_passage"]
    assert 0 <= span["start_s"] < span["end_s"] <= 5
    body = json.dumps({"dismissed": ["no_calibration"]})
    answer = api("patch", f"recordings/{recording['id']}/", body)
    assert answer.json()["dismissed"] == ["no_calibration"]


def test_settings_of_one_step_are_saved_replaced_and_deleted(api):
    def save(name, ratio, type_="compressor"):
        body = json.dumps({"type": type_, "name": name, "params": {"ratio": ratio}})
        return api("post", "saved-settings/", body)

    assert save("Warm", 2).json()["params"]["threshold_db"] == -18
    save(" Warm ", 3)
    (kept,) = api("get", "saved-settings/").json()
    assert kept["params"]["ratio"] == 3
    assert "steps[0].params.ratio" in save("Wrong", 99).json()["error"]["message"]
    assert save(" ", 2).status_code == 400
    assert save("x", 2, "wah").status_code == 400
    assert api("delete", f"saved-settings/{kept['id']}/").status_code == 204
    assert api("get", "saved-settings/").json() == []
