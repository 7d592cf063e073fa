"""Rooms over time, and silence at head and tail set to a length."""

from __future__ import annotations

import io
import json

import numpy as np
import pytest
import soundfile

from tests.made_sound import RATE, level_db, noise, sine, spoken
from tests.server.conftest import wav
from tests.server.test_edits import edit, result_of
from zesty_server.jobs.models import JobState
from zesty_server.recordings.models import Recording


def ends(api, recording, head_s=None, tail_s=None):
    body = json.dumps({"head_s": head_s, "tail_s": tail_s})
    return api("put", f"recordings/{recording['id']}/ends/", body)


def fresh(api, recording):
    return api("get", f"recordings/{recording['id']}/").json()


def silences(recording):
    phrases = recording["measures"]["speech_events"]["phrases"]
    return phrases[0]["start_s"], recording["measures"]["duration_s"] - phrases[-1]["end_s"]


@pytest.fixture
def framed(api):
    """Two seconds of room, speech, one second of room."""
    voice = np.pad(spoken(6), ((0, 0), (2 * RATE, RATE)))
    made = api.upload(wav(voice + noise(-55, 9)), "Framed.wav").json()
    return fresh(api, made)


@pytest.mark.parametrize(
    ("head_s", "tail_s"), [(0.5, None), (None, 0.5), (4, 6), (0.75, 3), (5, 0.2)]
)
def test_head_and_tail_get_the_length_asked_for(api, framed, head_s, tail_s):
    before = silences(framed)
    assert ends(api, framed, head_s, tail_s).status_code == 200
    after = fresh(api, framed)
    for now, wanted, was in zip(silences(after), (head_s, tail_s), before, strict=True):
        assert now == pytest.approx(was if wanted is None else wanted, abs=0.05)
    longer = any(w is not None and w > b for w, b in zip((head_s, tail_s), before, strict=True))
    assert (after["room_tone"] is not None) == longer
    # Set again, nothing changes; edits without them take everything back.
    ends(api, framed, head_s, tail_s)
    assert fresh(api, framed)["measures"]["duration_s"] == after["measures"]["duration_s"]
    edit(api, framed, [])
    assert fresh(api, framed)["measures"]["duration_s"] == pytest.approx(9)


def test_what_is_filled_in_is_room_and_goes_through_the_chain(api, framed):
    ends(api, framed, 5)
    run, sound = result_of(api, framed)
    assert run["pad_start_s"] == pytest.approx(5 - silences(framed)[0], abs=0.01)
    added = sound[: int(run["pad_start_s"] * RATE)].T
    assert level_db(added) == pytest.approx(-54.5, abs=0.5)
    assert level_db(added[:, : RATE // 2]) == pytest.approx(level_db(added), abs=1)


@pytest.mark.parametrize(
    ("head_s", "told"), [(60, "equal to 30"), (-1, "head_s"), ("long", "head_s")]
)
def test_lengths_that_do_not_do(api, framed, head_s, told):
    answer = ends(api, framed, head_s)
    assert answer.status_code == 400
    assert told in json.dumps(answer.json())
    assert silences(fresh(api, framed)) == silences(framed)


@pytest.mark.parametrize(
    ("sound", "told"),
    [
        (noise(-50, 3), "no voice was found"),
        (np.pad(spoken(3), ((0, 0), (RATE, RATE))), "mark a quiet stretch"),
    ],
)
def test_recordings_without_voice_or_room(api, sound, told):
    made = fresh(api, api.upload(wav(sound), "Odd.wav").json())
    answer = ends(api, made, 20, 20)
    assert answer.status_code == 400
    assert told in answer.json()["error"]["message"]


def test_edits_during_measuring_are_kept_and_measured_afterwards(api, framed):
    Recording.objects.filter(pk=framed["id"]).update(state=JobState.RUNNING)
    answer = edit(api, framed, [(0, 1)])
    assert answer.status_code == 200, answer.json()
    assert answer.json()["cuts"] == [{"start_s": 0.0, "end_s": 1.0}]


def mark(api, recording, name, start_s=0.2, end_s=1.8):
    body = json.dumps({"start_s": start_s, "end_s": end_s, "name": name})
    return api("post", f"recordings/{recording['id']}/mark-room-tone/", body)


def test_a_room_is_heard_seen_and_compared_with_how_it_was(api, framed):
    mark(api, framed, "boat shed")
    louder = np.pad(spoken(6), ((0, 0), (3 * RATE, 0))) + noise(-51, 9) + sine(-50, 9, 120)
    later = fresh(api, api.upload(wav(louder), "Later.wav").json())
    mark(api, later, "boat shed")
    mark(api, later, "another room")
    tones = api("get", "room-tones/").json()
    newer, older = (t for t in tones if t["name"] == "boat shed")
    (other,) = (t for t in tones if t["name"] == "another room")
    assert newer["changes"][1] == "a new tone at 120 Hz"
    assert "dB noisier" in newer["changes"][0]
    assert older["changes"] == other["changes"] == []
    assert len(newer["profile"]["bands"]) > 20
    heard = api("get", f"room-tones/{older['id']}/audio/")
    sound, rate = soundfile.read(io.BytesIO(heard.content))
    assert (rate, len(sound)) == (RATE, round(1.6 * RATE))


def test_a_selection_is_told_before_it_is_kept(api, framed):
    path = f"recordings/{framed['id']}/room-profile/"
    quiet = api("get", f"{path}?start_s=0.2&end_s=1.8").json()
    assert quiet["warnings"] == []
    spoken_over = api("get", f"{path}?start_s=2.5&end_s=6").json()
    assert "speech" in spoken_over["warnings"][0]
    short = api("get", f"{path}?start_s=1&end_s=1.02")
    assert short.status_code == 400
    assert "at least 0.05 s, got 0.020" in short.json()["error"]["message"]


def test_a_recording_has_one_noise_floor_on_all_pages(api, framed, another):
    found = framed["measures"]["noise_floor_dbfs"]
    mark = json.dumps({"start_s": 0.1, "end_s": 1.9, "name": "boat shed"})
    marked = api("post", f"recordings/{framed['id']}/mark-room-tone/", mark).json()
    told, tone = marked["measures"], marked["room_tone"]
    assert told["noise_floor_source"] == "room tone"
    assert told["noise_floor_span"] == {"start_s": 0.1, "end_s": 1.9}
    assert told["clearance_db"] == told["voice_level_dbfs"] - told["noise_floor_dbfs"]
    (row,) = api("get", "recordings/").json()
    assert row["measures"] == told
    run, _ = result_of(api, framed)
    assert run["before"]["noise_floor_dbfs"] == pytest.approx(told["noise_floor_dbfs"], abs=0.01)
    target = {"name": "Quiet", "bounds": {"noise_floor_dbfs": {"high": -60}}}
    quiet = api("post", "targets/", json.dumps(target)).json()["id"]
    (rule,) = api("get", f"targets/{quiet}/check/?recording={framed['id']}").json()
    assert rule["off_by"] == pytest.approx(told["noise_floor_dbfs"] + 60, abs=0.06)
    # A tone from elsewhere, or none, says nothing of this recording's noise.
    other = api.upload(another(8), "Other.wav").json()["id"]
    use = json.dumps({"room_tone": tone["id"]})
    elsewhere = api("put", f"recordings/{other}/room-tone/", use).json()
    assert elsewhere["measures"]["noise_floor_source"] != "room tone"
    use = json.dumps({"room_tone": None})
    found_again = api("put", f"recordings/{framed['id']}/room-tone/", use).json()
    assert found_again["measures"]["noise_floor_dbfs"] == found
