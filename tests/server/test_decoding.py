"""Compressed recordings: decoded once in the background, removable, made again; bombs refused."""

from __future__ import annotations

import json
from collections import Counter

import numpy as np
import pytest

from tests.core.test_encoding import m4a
from tests.made_sound import noise, spoken
from zesty_core.audio import decoded
from zesty_core.audio.reader import AudioFile
from zesty_server.jobs.attempts import Attempt
from zesty_server.jobs.models import JobState
from zesty_server.recordings import services
from zesty_server.recordings.models import Recording
from zesty_server.recordings.services import measure


@pytest.fixture
def compressed(tmp_path):
    """An M4A file as a telephone makes it."""
    sound = np.concatenate([noise(-60, 2), 0.5 * spoken(4)], axis=1)
    return m4a(tmp_path / "memo.m4a", sound)


@pytest.fixture
def memo(api, compressed):
    answer = api.upload(compressed.read_bytes(), "memo.m4a")
    assert answer.status_code == 201, answer.content
    return api("get", f"recordings/{answer.json()['id']}/").json()


def test_it_is_decoded_once_to_the_very_samples(memo, compressed):
    row = Recording.objects.get(pk=memo["id"])
    assert (memo["state"], memo["container"], memo["subtype"]) == ("done", "MP4", "AAC")
    kept, original = AudioFile(row.decoded_path), AudioFile(compressed)
    assert row.length_samples == kept.info.length_samples == original.info.length_samples
    whole = np.concatenate(list(original.blocks()), axis=1)
    assert np.array_equal(np.concatenate(list(kept.blocks()), axis=1), whole)
    assert not list(row.folder.glob("*decoding*"))


def test_no_look_decodes(api, memo, monkeypatch):
    def refuse(*_):
        raise AssertionError("decoded again")

    monkeypatch.setattr(decoded, "Decoder", refuse)
    monkeypatch.setattr("zesty_core.audio.reader.Decoder", refuse)
    for look in ("overview/?start_s=1&end_s=1.01", "figures/", "time-series/", "spectrogram/"):
        assert api("get", f"recordings/{memo['id']}/{look}").status_code == 200
    span = {"steps": [], "start_s": 1, "end_s": 3}
    answer = api("post", f"recordings/{memo['id']}/passage/", json.dumps(span))
    assert b"".join(answer.streaming_content)


def test_the_last_piece_does_not_wait_for_the_decoding(api, compressed, monkeypatch):
    monkeypatch.setattr("zesty_server.recordings.queueing.queue_job", lambda *_: None)
    monkeypatch.setattr("zesty_core.audio.decoded.Decoder.decode", lambda *_: 1 / 0)
    made = api.upload(compressed.read_bytes(), "memo.m4a")
    assert made.status_code == 201
    assert made.json()["state"] == "waiting"
    assert made.json()["duration_s"] == pytest.approx(6.0, abs=0.2)


def test_decoding_shows_progress_and_keeps_its_row(api, memo, monkeypatch):
    row = Recording.objects.get(pk=memo["id"])
    row.decoded_path.unlink()
    Recording.objects.filter(pk=row.pk).update(state=JobState.WAITING, tries=0)
    told = []
    monkeypatch.setattr(Attempt, "progress", lambda self, p: told.append((p.doing, p.share)))
    measure(str(row.pk))
    assert {doing for doing, _ in told} == {"decoding"}  # what was measured is known still
    assert [share for _, share in told] == sorted(share for _, share in told)
    assert told[-1][1] == pytest.approx(0.7, abs=0.05)


def test_what_was_removed_is_made_again_when_it_is_needed(api, memo, monkeypatch):
    row = Recording.objects.get(pk=memo["id"])
    size = row.decoded_path.stat().st_size
    kinds = {k["kind"]: k for k in api("get", "space/").json()["kinds"]}
    assert kinds["decoded"] == {"kind": "decoded", "count": 1, "size_bytes": size}
    assert api("delete", "space/decoded/").status_code == 200
    assert not row.decoded_path.exists()
    answer = api("get", f"recordings/{memo['id']}/figures/")
    assert (answer.status_code, answer.json()["error"]["code"]) == (409, "not_ready")
    # In tests the background work is done at once.
    assert api("get", f"recordings/{memo['id']}/figures/").status_code == 200
    assert api("get", f"recordings/{memo['id']}/").json()["measures"] == memo["measures"]


def test_a_run_decodes_what_it_needs(api, memo):
    chain = {"steps": [{"type": "gain", "params": {"gain_db": -3.0}}]}
    api("put", f"recordings/{memo['id']}/chain/", json.dumps(chain))
    api("delete", "space/decoded/")
    run = api("post", "runs/", json.dumps({"recording": memo["id"]})).json()["id"]
    assert api("get", f"runs/{run}/").json()["state"] == "done"


@pytest.mark.parametrize("times", [1, 2])
def test_a_damaged_one_says_so_on_its_row_and_can_be_tried_and_sent_again(
    api, compressed, monkeypatch, times
):
    def damaged(*_):
        raise decoded.NotDecodable("is damaged (Invalid data)")

    with monkeypatch.context() as patch:
        patch.setattr("zesty_core.audio.decoded.Decoder.decode", damaged)
        made = api.upload(compressed.read_bytes(), "memo.m4a").json()
        failed = api("get", f"recordings/{made['id']}/").json()
        assert (failed["state"], failed["error"]) == (
            "failed",
            "memo.m4a: is damaged (Invalid data)",
        )
        if times == 2:
            again = api("post", f"recordings/{made['id']}/retry/").json()
            assert api("get", f"recordings/{again['id']}/").json()["state"] == "failed"
    if times == 1:
        again = api("post", f"recordings/{made['id']}/retry/").json()
    else:
        again = api.upload(compressed.read_bytes(), "memo again.m4a").json()
    assert again["id"] == made["id"]
    now = api("get", f"recordings/{made['id']}/").json()
    assert (now["state"], now["error"]) == ("done", "")
    assert api("post", f"recordings/{made['id']}/retry/").status_code == 400


def test_a_killed_decoding_leaves_nothing_behind(api, memo):
    row = Recording.objects.get(pk=memo["id"])
    for name in ("decoding-dead.wav", ".decoding-dead.wav.1.part"):
        (row.folder / name).write_bytes(b"half")
    row.decoded_path.unlink()
    api("get", f"recordings/{memo['id']}/figures/")
    assert not list(row.folder.glob("*decoding*"))


def test_the_same_file_sent_six_times_is_one_recording(api, take, monkeypatch):
    """Whoever looks before the others have written sees nothing; the database does."""
    looks = Counter()
    same_file = services._same_file

    def look(recording):
        looks[recording.pk] += 1
        return same_file(recording) if looks[recording.pk] > 2 else Recording.objects.none()

    monkeypatch.setattr(services, "_same_file", look)
    answers = [api.upload(take, f"take {n}.wav") for n in range(6)]
    assert [a.status_code for a in answers].count(201) == 1
    assert all("is here already" in a.content.decode() for a in answers[1:])
    assert Recording.objects.count() == 1
    kept = Recording.objects.get()
    refused = set(looks) - {kept.pk}
    assert len(refused) == 5
    assert not any((kept.folder.parent / str(pk)).exists() for pk in refused)
