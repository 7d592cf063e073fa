"""Bringing recordings in, looking at them, and what is refused."""

from __future__ import annotations

import io
import json
from datetime import timedelta
from pathlib import Path

import numpy as np
import pytest
import soundfile
from django.conf import settings
from django.utils import timezone

from tests.made_sound import noise
from tests.server.conftest import wav
from zesty_core.foundation.errors import UnwritableAudio
from zesty_server.http.file_names import display_name
from zesty_server.recordings import services
from zesty_server.recordings.models import Recording
from zesty_server.recordings.services import KEPT_DAYS

CHAIN = [{"type": "normalize"}, {"type": "gain", "params": {"gain_db": -3}}]


def files():
    return sorted(str(p) for p in (Path(settings.MEDIA_ROOT) / "recordings").glob("*"))


def test_an_upload_is_kept_as_it_came_and_measured(api, recording, take):
    assert recording["name"] == "Morning tide"
    assert recording["state"] == "done"
    assert recording["measures"]["noise_floor_dbfs"] == pytest.approx(-55, abs=0.5)
    stored = Recording.objects.get(pk=recording["id"])
    assert stored.path.read_bytes() == take
    assert stored.path.stat().st_mode & 0o222 == 0
    assert [r["id"] for r in api("get", "recordings/").json()] == [recording["id"]]


BAD_UPLOADS = [
    (b"", "a.wav", "empty"),
    (b"not sound at all", "a.wav", "no sound file"),
    (wav(noise(-20, 1))[:40_000], "a.wav", "ends early"),
    (wav(noise(-20, 0.1, channels=6)), "a.wav", "6 channels"),
    (wav(noise(-20, 0.1)), "", "must have a name"),
    (wav(noise(-20, 0.1)), "..%2F..%2F", "must have a name"),
]


@pytest.mark.parametrize(("data", "name", "told"), BAD_UPLOADS)
def test_bad_uploads_are_told_and_leave_nothing(api, data, name, told):
    before = files()
    answer = api.upload(data, name)
    assert answer.status_code == 400
    assert told in answer.json()["error"]["message"]
    assert files() == before
    assert Recording.objects.count() == 0


@pytest.mark.parametrize(
    ("given", "kept"),
    [
        ("../../etc/passwd.wav", "passwd.wav"),
        ("C:\\takes\\a.wav", "a.wav"),
        ("Möwe 🐦.wav", "Möwe 🐦.wav"),
    ],
)
def test_names_are_never_paths(given, kept):
    assert display_name(given) == kept


def test_a_full_disk_is_told_and_leaves_nothing(api, take, monkeypatch):
    before = files()
    usage = type("Usage", (), {"free": 1000})
    monkeypatch.setattr(services.shutil, "disk_usage", lambda _: usage)
    answer = api.upload(take)
    assert answer.status_code == 409
    assert "the disk has 0 MB free" in answer.json()["error"]["message"]
    assert files() == before


def test_a_disk_that_fills_up_on_the_way(take, monkeypatch, db):
    before = files()

    class Filling:
        def read(self, _):
            raise OSError(28, "No space left on device")

    with pytest.raises(UnwritableAudio, match="No space left"):
        services.receive_recording(Filling(), "a.wav", len(take))
    assert files() == before


def test_an_upload_that_breaks_off(api, take):
    with pytest.raises(Exception, match="broke off"):
        services.receive_recording(__import__("io").BytesIO(take[:1000]), "a.wav", len(take))


def test_silence_is_taken_in_with_reasons(api):
    answer = api.upload(wav(np.zeros((1, 48_000), np.float32)))
    measures = api("get", f"recordings/{answer.json()['id']}/").json()["measures"]
    assert measures["voice_level_dbfs"] is None
    assert measures["reasons"]["voice_level_dbfs"] == "silence"


def test_overview_of_a_stretch(api, recording):
    part = api("get", f"recordings/{recording['id']}/overview/?start_s=1&end_s=3&bins=100").json()
    assert len(part["low"]) == len(part["high"]) == len(part["rms"]) <= 101
    assert part["start_s"] <= 1
    bad = api("get", f"recordings/{recording['id']}/overview/?bins=0")
    assert bad.status_code == 400


def test_chain_is_checked_and_the_old_one_kept(api, recording):
    address = f"recordings/{recording['id']}/chain/"
    good = api("put", address, json.dumps({"steps": CHAIN}))
    assert [s["type"] for s in good.json()["chain"]] == ["normalize", "gain"]
    assert len(good.json()["chain_sentences"]) == 2
    wrong = [{"type": "compressor", "params": {"ratio": 0}}]
    bad = api("put", address, json.dumps({"steps": wrong}))
    assert bad.status_code == 400
    assert bad.json()["error"]["path"] == "steps[0].params.ratio"
    assert len(api("get", f"recordings/{recording['id']}/").json()["chain"]) == 2


def test_room_tone_is_marked_reused_and_forgotten(api, recording, another):
    address = f"recordings/{recording['id']}"
    marked = api(
        "post",
        f"{address}/mark-room-tone/",
        json.dumps({"start_s": 0.2, "end_s": 1.8, "name": "boat shed"}),
    )
    tone = marked.json()["room_tone"]
    assert tone["level_dbfs"] == pytest.approx(-55, abs=0.3)
    other = api.upload(another(7), "Other.wav").json()["id"]
    used = api("put", f"recordings/{other}/room-tone/", json.dumps({"room_tone": tone["id"]}))
    assert used.json()["room_tone"]["name"] == "boat shed"
    assert api("get", "room-tones/").json()[0]["used_by"] == 2
    renamed = api("patch", f"room-tones/{tone['id']}/", json.dumps({"name": "kitchen table"}))
    assert renamed.json()["name"] == "kitchen table"
    assert api("delete", f"room-tones/{tone['id']}/").status_code == 204
    assert api("get", f"{address}/").json()["room_tone"] is None


@pytest.mark.parametrize(
    ("start_s", "end_s", "told"),
    [(1, 1.02, "at least 0.05 s"), (2, 1, "start before"), (0, 99, "within")],
)
def test_room_tone_that_does_not_fit(api, recording, start_s, end_s, told):
    body = json.dumps({"start_s": start_s, "end_s": end_s})
    answer = api("post", f"recordings/{recording['id']}/mark-room-tone/", body)
    assert answer.status_code == 400
    assert told in answer.json()["error"]["message"]


def test_deleting_can_be_taken_back_and_goes_for_good_in_time(api, recording, another):
    address = f"recordings/{recording['id']}"
    folder = Recording.objects.get(pk=recording["id"]).folder
    assert api("delete", f"{address}/").status_code == 204
    assert api("get", f"{address}/").json()["error"]["code"] == "not_found"
    assert api("get", "recordings/").json() == []
    started = api("post", "runs/", json.dumps({"recording": recording["id"]}))
    assert started.status_code == 400
    assert api("post", f"{address}/take-back/").json()["name"] == recording["name"]
    assert api("get", f"{address}/").status_code == 200
    api("delete", f"{address}/")
    long_ago = timezone.now() - timedelta(days=KEPT_DAYS + 1)
    Recording.objects.update(deleted_at=long_ago)
    other = api.upload(another(3), "Other.wav").json()["id"]
    api("delete", f"recordings/{other}/")
    assert not folder.exists()
    assert not Recording.objects.filter(pk=recording["id"]).exists()


def test_the_same_file_is_not_taken_in_twice(api, recording, take):
    answer = api.upload(take, "Copy of it.wav")
    assert answer.status_code == 400
    error = answer.json()["error"]
    assert error["code"] == "duplicate"
    assert 'is here already as "Morning tide"' in error["message"]
    assert len(api("get", "recordings/").json()) == 1
    # Deleted, it may come in again, but then the deletion cannot be taken back.
    api("delete", f"recordings/{recording['id']}/")
    assert api.upload(take, "Copy of it.wav").status_code == 201
    back = api("post", f"recordings/{recording['id']}/take-back/")
    assert back.json()["error"]["code"] == "duplicate"


def test_a_recording_is_described(api, recording):
    address = f"recordings/{recording['id']}/"
    words = {"group": "Hide guides", "take": 3, "notes": "Gulls at the end.", "label": "guide"}
    described = api("patch", address, json.dumps(words)).json()
    assert {k: described[k] for k in words} == words
    assert described["name"] == "Morning tide"
    for wrong in ({"take": -1}, {"take": "x"}, {"name": " "}):
        assert api("patch", address, json.dumps(wrong)).status_code == 400


def test_intake_advice_comes_with_the_recording(api, another):
    sound = soundfile.read(io.BytesIO(another(5)))[0]
    sound = np.clip(20 * sound, -0.5, 0.5)
    held = io.BytesIO()
    soundfile.write(held, sound, 48_000, "PCM_24", format="WAV")
    created = api.upload(held.getvalue(), "Hot.wav").json()
    advice = api("get", f"recordings/{created['id']}/").json()["advice"]
    clipped = next(f for f in advice if f["code"] == "clipped")
    assert clipped["act"]["kind"] == "add_step"
    assert clipped["act"]["with"]["type"] == "declip"
    assert 0 <= clipped["at_s"][0] < 5


@pytest.mark.parametrize(
    ("asked", "status", "span"),
    [
        ("bytes=0-99", 206, "bytes 0-99/"),
        ("bytes=-10", 206, None),
        ("bytes=999999999-", 416, "bytes */"),
        ("bytes=5-2", 416, "bytes */"),
        ("lines=1-2", 200, None),
        (None, 200, None),
    ],
)
def test_byte_ranges(api, recording, take, asked, status, span):
    headers = {"Range": asked} if asked else {}
    answer = api("get", f"recordings/{recording['id']}/audio/", **headers)
    assert answer.status_code == status
    if span:
        assert answer["Content-Range"].startswith(span)
    if asked == "bytes=-10":
        assert answer.content == take[-10:]


def test_ranges_know_whether_the_file_is_the_same(api, recording):
    address = f"recordings/{recording['id']}/audio/"
    etag = api("head", address)["ETag"]
    assert api("get", address, **{"If-None-Match": etag}).status_code == 304
    stale = api("get", address, **{"Range": "bytes=0-9", "If-Range": '"old"'})
    assert stale.status_code == 200


def test_a_change_from_another_page_is_refused(api, recording):
    answer = api.client.delete(f"/api/recordings/{recording['id']}/")
    assert answer.status_code == 403
    assert answer.json()["error"]["code"] == "refused"
    assert Recording.objects.count() == 1


def test_another_host_name_is_refused(api):
    assert api.client.get("/api/recordings/", headers={"Host": "evil.example"}).status_code == 400


def test_unknown_addresses_and_ids(api):
    for path in ("nothing/", "recordings/00000000-0000-0000-0000-000000000000/", "recordings/x/"):
        answer = api("get", path)
        assert answer.status_code == 404
        assert answer.json()["error"]["message"]
