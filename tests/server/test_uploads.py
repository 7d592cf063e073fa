"""Files that come in pieces: broken off, gone on with, given up, refused; nothing half remains."""

from __future__ import annotations

import fcntl
import hashlib
import io
import json
from datetime import timedelta
from pathlib import Path

import pytest
from django.conf import settings
from django.utils import timezone

from tests.made_sound import noise
from tests.server.conftest import wav
from zesty_server.recordings import services as recordings
from zesty_server.recordings.models import Recording
from zesty_server.uploads import digests
from zesty_server.uploads.models import Upload
from zesty_server.uploads.services import KEPT_DAYS, UploadMoved, add_piece

SOUND = wav(noise(-20, 0.5))
SIZE = len(SOUND)
HALF = SIZE // 2


def begin(api, name="Ebb.wav", size=SIZE, modified_ms=1_000):
    body = json.dumps({"name": name, "size_bytes": size, "modified_ms": modified_ms})
    return api("post", "uploads/", body)


def piece(api, upload, offset, data):
    path = f"uploads/{upload['id']}/piece/?offset={offset}"
    return api("put", path, data, "application/octet-stream")


def parts():
    return [p for p in (Path(settings.MEDIA_ROOT)).rglob("*.part") if p.is_file()]


@pytest.fixture(autouse=True)
def nothing_left_over():
    before = set(parts())
    yield
    for path in set(parts()) - before:
        path.unlink()


@pytest.mark.parametrize("restarted", [False, True])
def test_a_file_in_pieces_becomes_the_recording_it_was(api, restarted):
    upload = begin(api).json()
    assert upload["received_bytes"] == 0
    assert piece(api, upload, 0, SOUND[:HALF]).json()["received_bytes"] == HALF
    if restarted:
        digests._running.clear()
    # In this window or in another: the same file goes on where it was.
    again = begin(api).json()
    assert (again["id"], again["received_bytes"]) == (upload["id"], HALF)
    assert [u["received_bytes"] for u in api("get", "uploads/").json()] == [HALF]
    made = piece(api, again, HALF, SOUND[HALF:]).json()["recording"]
    recording = Recording.objects.get(pk=made["id"])
    assert recording.path.read_bytes() == SOUND
    assert recording.sha256 == hashlib.sha256(SOUND).hexdigest()
    assert Upload.objects.count() == 0
    assert parts() == []


def test_what_came_before_the_connection_broke_is_kept(api):
    upload = Upload.objects.get(pk=begin(api).json()["id"])
    with pytest.raises(UploadMoved, match="the connection broke off, 1000 bytes are missing"):
        add_piece(upload, io.BytesIO(SOUND[: HALF - 1000]), 0, HALF)
    assert begin(api).json()["received_bytes"] == HALF - 1000


@pytest.mark.parametrize(
    ("offset", "data", "code", "told"),
    [
        ("17", b"abc", "upload_moved", "0 bytes have come in, the piece begins at 17"),
        ("0", SOUND + b"x", "bad_input", "does not fit"),
        ("0", b"", "bad_input", "a piece of 0 bytes"),
        ("x", b"abc", "bad_input", "offset: must be a number"),
    ],
)
def test_pieces_that_do_not_join(api, offset, data, code, told):
    upload = begin(api).json()
    answer = piece(api, upload, offset, data)
    assert answer.status_code in (400, 409)
    assert answer.json()["error"]["code"] == code
    assert told in answer.json()["error"]["message"]
    assert begin(api).json()["received_bytes"] == 0


def test_two_windows_do_not_write_into_each_other(api):
    upload = begin(api).json()
    path = Upload.objects.get(pk=upload["id"]).path
    with path.open("ab") as other:
        fcntl.flock(other, fcntl.LOCK_EX)
        answer = piece(api, upload, 0, SOUND)
    assert answer.json()["error"]["code"] == "upload_busy"
    assert "another window" in answer.json()["error"]["message"]
    assert piece(api, upload, 0, SOUND).status_code == 200


@pytest.mark.parametrize(
    ("name", "data", "told"),
    [
        ("notes.wav", b"no sound" * 99, "no sound file"),
        ("half.wav", SOUND[:HALF], "ends early"),
        ("picture.png", b"\x89PNG\r\n\x1a\n" + bytes(99), "no sound file"),
    ],
)
def test_a_bad_file_is_told_at_the_end_and_gone(api, name, data, told):
    upload = begin(api, name, len(data)).json()
    answer = piece(api, upload, 0, data)
    assert answer.status_code == 400
    assert told in answer.json()["error"]["message"]
    assert name in answer.json()["error"]["message"]
    assert (Upload.objects.count(), Recording.objects.count(), parts()) == (0, 0, [])


def test_a_wrong_extension_is_no_fault(api):
    upload = begin(api, "take.mp3").json()
    assert piece(api, upload, 0, SOUND).json()["recording"]["name"] == "take"


def test_the_same_content_twice_is_recognised(api):
    api.upload(SOUND, "Ebb.wav")
    upload = begin(api, "Copy of ebb.wav").json()
    answer = piece(api, upload, 0, SOUND)
    assert answer.json()["error"]["code"] == "duplicate"
    assert (Upload.objects.count(), Recording.objects.count()) == (0, 1)


@pytest.mark.parametrize(
    ("name", "size", "told"),
    [("a.wav", 0, "empty"), ("", 10, "name"), ("a.wav", -4, "empty")],
)
def test_what_cannot_begin(api, name, size, told):
    answer = begin(api, name, size)
    assert answer.status_code == 400
    assert told in json.dumps(answer.json())
    assert Upload.objects.count() == 0


def test_a_full_disk_is_told_before_anything_is_sent(api, monkeypatch):
    usage = type("Usage", (), {"free": 1000})
    monkeypatch.setattr(recordings.shutil, "disk_usage", lambda _: usage)
    answer = begin(api)
    assert answer.status_code == 409
    assert "the disk has 0 MB free" in answer.json()["error"]["message"]


def test_given_up_and_forgotten_parts_are_removed(api):
    one, two = begin(api, "a.wav").json(), begin(api, "b.wav").json()
    for upload in (one, two):
        piece(api, upload, 0, SOUND[:HALF])
    assert api("delete", f"uploads/{one['id']}/").status_code == 204
    Upload.objects.update(touched_at=timezone.now() - timedelta(days=KEPT_DAYS, minutes=1))
    begin(api, "c.wav")
    assert [u["name"] for u in api("get", "uploads/").json()] == ["c.wav"]
    assert parts() == []
