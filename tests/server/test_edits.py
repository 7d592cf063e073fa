"""Cuts and the choice of channel: sample for sample, taken back at any time, refused when wrong."""

from __future__ import annotations

import io
import json

import numpy as np
import pytest
import soundfile

from tests.made_sound import RATE, noise, spoken
from tests.server.conftest import wav

PLAIN = [{"type": "gain", "params": {"gain_db": 0.5}}]


def edit(api, recording, cuts, mono=""):
    body = json.dumps({"cuts": [{"start_s": a, "end_s": b} for a, b in cuts], "mono": mono})
    return api("put", f"recordings/{recording['id']}/edits/", body)


def result_of(api, recording):
    api("put", f"recordings/{recording['id']}/chain/", json.dumps({"steps": PLAIN}))
    run = api("post", "runs/", json.dumps({"recording": recording["id"]})).json()
    run = api("get", f"runs/{run['id']}/").json()
    assert run["state"] == "done", run["error"]
    body = b"".join(api("get", f"runs/{run['id']}/result/").streaming_content)
    return run, soundfile.read(io.BytesIO(body), always_2d=True)[0]


def test_cuts_are_left_out_of_everything_and_can_be_taken_back(api, recording, take):
    cut = edit(api, recording, [(3.5, 4.0), (0.0, 1.0)]).json()
    assert cut["cuts"] == [{"start_s": 0.0, "end_s": 1.0}, {"start_s": 3.5, "end_s": 4.0}]
    fresh = api("get", f"recordings/{recording['id']}/").json()
    assert fresh["state"] == "done"
    assert fresh["measures"]["duration_s"] == pytest.approx(3.5)
    assert fresh["duration_s"] == pytest.approx(5.0)  # the original stays
    run, sound = result_of(api, recording)
    assert run["duration_s"] == pytest.approx(3.5)
    assert run["cuts"] == cut["cuts"]
    original = soundfile.read(io.BytesIO(take), always_2d=True)[0]
    half = int(0.005 * RATE)
    kept = 10 ** (0.5 / 20) * original[RATE + half : int(3.5 * RATE) - half]
    assert sound[half : len(kept) + half] == pytest.approx(kept, abs=3e-7)
    overview = api("get", f"runs/{run['id']}/overview/?bins=100").json()
    assert len(overview["rms"]) * overview["bin_s"] == pytest.approx(3.5, abs=0.1)
    edit(api, recording, [])
    back = api("get", f"recordings/{recording['id']}/").json()
    assert back["measures"]["duration_s"] == pytest.approx(5.0)


def test_cuts_that_touch_become_one(api, recording):
    cuts = edit(api, recording, [(2.0, 3.0), (1.0, 2.5), (3.0, 3.2)]).json()["cuts"]
    assert cuts == [{"start_s": 1.0, "end_s": 3.2}]


@pytest.mark.parametrize(
    ("cuts", "mono", "told"),
    [
        ([(0, 5)], "", "leave nothing"),
        ([(2, 1)], "", "start before the end"),
        ([(4, 99)], "", None),  # reaches beyond the end: cut off there
        ([(9, 99)], "", "within 0 and 5.000 s"),
        ([], "both", "mono: must be one of mean, left, right, better"),
        ([(0.01 * i, 0.01 * i + 0.001) for i in range(5001)], "", "at most 5000"),
    ],
)
def test_edits_that_do_not_fit(api, recording, cuts, mono, told):
    answer = edit(api, recording, cuts, mono)
    assert answer.status_code == (200 if told is None else 400)
    if told:
        assert told in answer.json()["error"]["message"]
        assert api("get", f"recordings/{recording['id']}/").json()["cuts"] == []


def test_marked_room_tone_still_counts_in_times_of_the_original(api, recording):
    body = json.dumps({"start_s": 0.2, "end_s": 1.8, "name": "boat shed"})
    api("post", f"recordings/{recording['id']}/mark-room-tone/", body)
    edit(api, recording, [(0.0, 1.0)])
    steps = [{"type": "noise_reduction"}]
    api("put", f"recordings/{recording['id']}/chain/", json.dumps({"steps": steps}))
    run = api("post", "runs/", json.dumps({"recording": recording["id"]})).json()
    run = api("get", f"runs/{run['id']}/").json()
    assert run["room_tone"]["source"] == "marked"
    assert run["points"][0]["report"]["room_tone_change_db"] == pytest.approx(-25, abs=0.5)


@pytest.mark.parametrize(("mono", "kept"), [("left", 0), ("right", 1), ("better", 1)])
def test_one_side_of_a_stereo_recording(api, mono, kept):
    pair = np.concatenate([noise(-60, 4), spoken(4) + noise(-60, 4, seed=2)])
    recording = api.upload(wav(pair), "Wide.wav").json()
    advised = api("get", f"recordings/{recording['id']}/").json()["advice"]
    assert "one_sided" in [f["code"] for f in advised]
    edit(api, recording, [], mono)
    fresh = api("get", f"recordings/{recording['id']}/").json()
    assert fresh["measures"]["channels"] == 1
    assert fresh["mono"] == ("right" if kept else "left")
    run, sound = result_of(api, recording)
    assert (run["channels"], sound.shape[1]) == (1, 1)
    assert sound[:, 0] == pytest.approx(10 ** (0.5 / 20) * pair[kept], abs=3e-7)
