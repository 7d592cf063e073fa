"""Inserts, fades, markers, pauses and splitting over HTTP."""

from __future__ import annotations

import io
import json

import av
import numpy as np
import pytest
import soundfile

from tests.made_sound import RATE, level_db, noise, spoken
from tests.server.conftest import wav
from tests.server.test_edits import result_of

GAIN = [{"type": "gain", "params": {"gain_db": 0.0}}]
NONE = {"cuts": [], "mono": ""}


def edit(api, recording, **edits):
    return api("put", f"recordings/{recording['id']}/edits/", json.dumps(NONE | edits))


def fetched(api, recording):
    return api("get", f"recordings/{recording['id']}/").json()


@pytest.mark.parametrize(("kind", "level"), [("silence", -300.0), ("room_tone", -55.0)])
def test_an_insert_is_measured_and_in_the_result(api, recording, kind, level):
    edit(api, recording, inserts=[{"at_s": 3.0, "length_s": 1.5, "kind": kind}])
    fresh = fetched(api, recording)
    assert fresh["measures"]["duration_s"] == pytest.approx(6.5)
    # Room tone that is put in is the best found, kept from then on.
    assert (fresh["room_tone"] is not None) == (kind == "room_tone")
    run, sound = result_of(api, recording)
    assert run["duration_s"] == pytest.approx(6.5)
    assert run["inserts"] == fresh["inserts"]
    put_in = sound[3 * RATE : round(4.5 * RATE), 0]
    assert level_db(put_in) == pytest.approx(level, abs=1.5)


def test_fades_are_in_the_result_and_what_is_not_given_stays(api, recording):
    edit(api, recording, fade_in_s=1.0, fade_out_s=0.5, markers=[{"at_s": 1.0, "name": "Reeds"}])
    edit(api, recording)
    fresh = fetched(api, recording)
    assert (fresh["fade_in_s"], fresh["fade_out_s"]) == (1.0, 0.5)
    assert fresh["markers"] == [{"at_s": 1.0, "name": "Reeds"}]
    run, sound = result_of(api, recording)
    assert abs(sound[0, 0]) < 1e-5
    assert level_db(sound[: RATE // 4]) < level_db(sound[RATE : 2 * RATE]) - 10
    assert run["fade_in_s"] == 1.0


def test_markers_change_no_sound_so_nothing_is_measured_again(api, recording):
    before = fetched(api, recording)
    answer = edit(api, recording, markers=[{"at_s": 4.0, "name": "b"}, {"at_s": 1.0, "name": "a"}])
    after = answer.json()
    assert [m["name"] for m in after["markers"]] == ["a", "b"]
    assert after["state"] == "done"
    assert after["work_version"] == before["work_version"] + 1
    assert after["finished_at"] == before["finished_at"]


@pytest.mark.parametrize(
    ("edits", "words"),
    [
        ({"inserts": [{"at_s": 9, "length_s": 1, "kind": "silence"}]}, "within 0 to 5"),
        ({"inserts": [{"at_s": 1, "length_s": 0, "kind": "silence"}]}, "up to 30 s"),
        ({"inserts": [{"at_s": 1, "length_s": 1, "kind": "music"}]}, "music"),
        ({"markers": [{"at_s": 9, "name": "x"}]}, "within 0 to 5"),
        ({"markers": [{"at_s": 1, "name": ""}]}, "name"),
        ({"fade_in_s": 31}, "30"),
    ],
)
def test_edits_that_do_not_fit_change_nothing(api, recording, edits, words):
    answer = edit(api, recording, **edits)
    assert answer.status_code == 400
    assert words in json.dumps(answer.json())
    assert fetched(api, recording)["work_version"] == recording["work_version"]


def test_room_tone_cannot_be_put_in_where_there_is_none(api):
    voice = wav(spoken(3)[:, : round(0.6 * RATE)])
    made = api.upload(voice, "Short.wav").json()
    answer = edit(api, made, inserts=[{"at_s": 0.1, "length_s": 1, "kind": "room_tone"}])
    assert answer.status_code == 400
    assert "room tone" in answer.json()["error"]["message"]


@pytest.fixture
def slow_talk(api):
    """Words from 1 to 2, 4 to 5 and 8 to 9 s."""
    sound = noise(-60, 10)
    for start_s in (1, 4, 8):
        sound[:, start_s * RATE : (start_s + 1) * RATE] += 0.5 * spoken(1, seed=start_s)
        tone = 0.05 * np.sin(2 * np.pi * 150 * np.arange(RATE) / RATE)
        sound[:, start_s * RATE : (start_s + 1) * RATE] += tone.astype(np.float32)
    return api.upload(wav(sound), "Slow talk.wav").json()


def pauses(api, recording, longest_s):
    return api("get", f"recordings/{recording['id']}/pauses/?longest_s={longest_s}").json()


def test_pauses_are_listed_in_times_of_the_original_and_cut_to_their_length(api, slow_talk):
    found = pauses(api, slow_talk, 0.5)
    assert [(round(p["at_s"]), round(p["length_s"])) for p in found] == [(2, 2), (5, 3)]
    edit(api, slow_talk, cuts=[p["cut"] for p in found])
    fresh = fetched(api, slow_talk)
    assert fresh["measures"]["duration_s"] == pytest.approx(10 - 1.5 - 2.5, abs=0.06)
    assert pauses(api, slow_talk, 0.5) == []
    # Shorter still, from the tightened ones: the cuts join those that are there.
    again = pauses(api, slow_talk, 0.3)
    assert [round(p["length_s"], 1) for p in again] == [0.5, 0.5]
    edit(api, slow_talk, cuts=[*fresh["cuts"], *(p["cut"] for p in again)])
    assert fetched(api, slow_talk)["measures"]["duration_s"] == pytest.approx(5.6, abs=0.08)


def test_a_pause_with_an_insert_is_left_alone(api, slow_talk):
    edit(api, slow_talk, inserts=[{"at_s": 3.0, "length_s": 2.0, "kind": "silence"}])
    assert [round(p["at_s"]) for p in pauses(api, slow_talk, 0.5)] == [5]
    bad = api("get", f"recordings/{slow_talk['id']}/pauses/?longest_s=0.01")
    assert bad.status_code == 400


MARKERS = [{"at_s": 3.0, "name": "Reeds / rushes"}, {"at_s": 6.5, "name": "Gulls"}]


def test_a_recording_is_split_at_its_markers_bit_for_bit(api, slow_talk):
    assert api("post", f"recordings/{slow_talk['id']}/split/").status_code == 400
    api("put", f"recordings/{slow_talk['id']}/chain/", json.dumps({"steps": GAIN}))
    edit(api, slow_talk, markers=MARKERS)
    answer = api("post", f"recordings/{slow_talk['id']}/split/")
    assert answer.status_code == 201, answer.content
    made = answer.json()
    assert [(m["name"], m["group"]) for m in made] == [
        (name, "Slow talk") for name in ("Slow talk, beginning", "Reeds / rushes", "Gulls")
    ]
    parts = []
    for one in made:
        fresh = fetched(api, one)
        assert fresh["state"] == "done"
        assert fresh["chain"] == fetched(api, slow_talk)["chain"]
        assert fresh["markers"] == []
        body = b"".join(api("get", f"recordings/{one['id']}/audio/").streaming_content)
        parts.append(soundfile.read(io.BytesIO(body), dtype="int32")[0])
    whole = b"".join(api("get", f"recordings/{slow_talk['id']}/audio/").streaming_content)
    assert np.array_equal(
        np.concatenate(parts), soundfile.read(io.BytesIO(whole), dtype="int32")[0]
    )
    # The same split once more gives the same recordings.
    again = api("post", f"recordings/{slow_talk['id']}/split/").json()
    assert [one["id"] for one in again] == [one["id"] for one in made]


def test_a_split_applies_the_edits(api, slow_talk):
    edit(api, slow_talk, cuts=[{"start_s": 5.5, "end_s": 7.5}], markers=MARKERS)
    made = api("post", f"recordings/{slow_talk['id']}/split/").json()
    assert [round(m["duration_s"], 2) for m in made] == [3.0, 2.5, 2.5]


def delivered(api, recording, tmp_path, container="MP3", target=None):
    order = {"recordings": [recording["id"]], "file": {"container": container}, "target": target}
    api("put", f"recordings/{recording['id']}/chain/", json.dumps({"steps": GAIN}))
    batch = api("post", "batches/", json.dumps(order))
    assert batch.status_code == 201, batch.content
    [run] = api("get", f"batches/{batch.json()['id']}/").json()["runs"]
    assert run["state"] == "done", run["error"]
    made = run["delivery"]["id"]
    path = tmp_path / f"made.{container.lower()}"
    path.write_bytes(b"".join(api("get", f"deliveries/{made}/file/").streaming_content))
    receipt = json.loads(b"".join(api("get", f"deliveries/{made}/receipt/").streaming_content))
    return path, receipt


def test_markers_are_chapters_of_what_is_delivered(api, slow_talk, tmp_path):
    """Read by the media library, which did not write them."""
    edit(api, slow_talk, cuts=[{"start_s": 5.5, "end_s": 6.0}], markers=MARKERS)
    path, receipt = delivered(api, slow_talk, tmp_path)
    with av.open(str(path)) as file:
        found = [
            (float(c["start"] * c["time_base"]), c["metadata"]["title"]) for c in file.chapters()
        ]
    assert found == [(0.0, "Slow talk"), (3.0, "Reeds / rushes"), (6.0, "Gulls")]
    assert [c["name"] for c in receipt["file"]["chapters"]] == [name for _, name in found]


@pytest.fixture
def jingle(api):
    sound = wav(noise(-20, 2, 44_100, channels=2), 44_100)
    answer = api("post", "beds/upload/?name=Gulls.wav", sound, "application/octet-stream")
    return answer.json()["id"]


def target_with(api, jingle, **more):
    piece = {"bed": jingle, "overlap_s": 0.5, "level_lu": -3}
    body = {"name": "Show", "bounds": {"integrated_lufs": {"aim": -18, "low": -19, "high": -17}}}
    return api("post", "targets/", json.dumps(body | {"intro": piece} | more))


def test_the_intro_of_a_target_is_joined_and_in_the_receipt(api, slow_talk, jingle, tmp_path):
    made = target_with(api, jingle)
    assert made.status_code == 201, made.content
    path, receipt = delivered(api, slow_talk, tmp_path, "WAV", made.json()["id"])
    assert soundfile.info(path).duration == pytest.approx(11.5)
    [joined] = receipt["joined"]
    assert (joined["place"], joined["name"], joined["overlap_s"]) == ("intro", "Gulls", 0.5)
    assert receipt["after"]["integrated_lufs"] == pytest.approx(-18, abs=0.2)


def test_a_target_keeps_its_pieces_until_they_are_taken_away(api, jingle):
    made = target_with(api, jingle).json()
    body = {"name": "Show", "bounds": made["bounds"]}
    changed = api("put", f"targets/{made['id']}/", json.dumps(body)).json()
    assert changed["intro"]["bed"] == jingle
    kept = api("delete", f"beds/{jingle}/")
    assert kept.status_code == 400
    assert "Show" in kept.json()["error"]["message"]
    gone = api("put", f"targets/{made['id']}/", json.dumps(body | {"intro": None})).json()
    assert gone["intro"] is None
    assert api("delete", f"beds/{jingle}/").status_code == 204


@pytest.mark.parametrize(
    "piece",
    [
        {"bed": "00000000-0000-0000-0000-000000000000", "overlap_s": 0, "level_lu": 0},
        {"bed": "nonsense", "overlap_s": 0, "level_lu": 0},
        {"overlap_s": 0, "level_lu": 0},
        {"overlap_s": 31, "level_lu": 0},
        "Gulls",
    ],
)
def test_pieces_that_do_not_serve_are_refused_and_the_target_is_not_kept(api, jingle, piece):
    if isinstance(piece, dict) and piece.get("overlap_s") == 31:
        piece = piece | {"bed": jingle}
    assert target_with(api, jingle, intro=piece).status_code == 400
    assert "Show" not in [t["name"] for t in api("get", "targets/").json()]
