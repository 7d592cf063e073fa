"""Requests and files that cannot be worked on: a sentence, never a 500, and nothing lost."""

from __future__ import annotations

import errno
import io
import json
import zipfile

import numpy as np
import pytest
from django.conf import settings
from django.db import OperationalError

from tests.made_sound import noise
from tests.server.conftest import wav
from zesty_core.foundation.errors import BadInput
from zesty_server.beds.models import Bed
from zesty_server.beds.services import keep_bed
from zesty_server.deliveries.models import Delivery
from zesty_server.recordings.models import Recording
from zesty_server.runs.models import Run
from zesty_server.uploads import services as uploads
from zesty_server.uploads.models import Upload

NONE = "00000000-0000-4000-8000-000000000000"
DEEP = "[" * 100_000 + "]" * 100_000
MANY_DIGITS = "9" * 400
STEPS = '{{"steps": [{{"type": "gain", "params": {{"gain_db": {}}}}}]}}'
TARGET = '{{"name": "Ours", "bounds": {{"true_peak_dbtp": {{"high": {}}}}}}}'


def told(answer, status=400):
    """The sentence of a refusal."""
    assert answer.status_code == status, answer.content[:300]
    fault = answer.json()["error"]
    assert set(fault) == {"code", "message", "path"}
    assert "Traceback" not in fault["message"]
    return fault["message"]


@pytest.mark.parametrize(
    ("method", "path", "body", "words"),
    [
        ("put", "recordings/{id}/chain/", DEEP, "nested more than 40 deep"),
        ("put", "recordings/{id}/chain/", STEPS.format(MANY_DIGITS), "digits is too large"),
        ("put", "recordings/{id}/chain/", STEPS.format("1e999"), "too large a number"),
        ("put", "recordings/{id}/chain/", STEPS.format("NaN"), "no number in JSON"),
        ("put", "recordings/{id}/chain/", "[]", "Invalid data"),
        ("put", "recordings/{id}/chain/", "null", "No data"),
        (
            "put",
            "recordings/{id}/chain/",
            '{"steps": [], "recipe_version": 1' + "0" * 17 + "}",
            "less than or equal",
        ),
        ("put", "recordings/{id}/chain/", '{"steps": []', "no JSON document"),
        ("patch", "recordings/{id}/", '{"name": "\\ud800"}', "a character that is none"),
        ("patch", "recordings/{id}/", '{"notes": "a\\u0000b"}', "a character that is none"),
        ("post", "targets/", "[]", "must be a JSON object"),
        ("post", "targets/", "null", "must be a JSON object"),
        ("post", "targets/", TARGET.format(MANY_DIGITS), "digits is too large"),
        ("post", "targets/import/", DEEP[:40_000], "nested more than 40 deep"),
        ("post", "targets/import/", "[1]", "must be a JSON object"),
        ("post", "recipes/", DEEP, "nested more than 40 deep"),
        ("post", "recipes/import/?name=x.json", DEEP, "nested more than 40 deep"),
        ("post", "recipes/import/?name=x.json", f"[{MANY_DIGITS}]", "digits is too large"),
        ("post", "batches/", '{"recordings": ["{id}"], "cover": "' + "a" * 300 + '"}', "cover"),
        ("post", "batches/", '{"recordings": 5}', "recordings"),
        ("post", "mixes/", f'{{"run": "{NONE}", "bed": "{NONE}", "params": {DEEP}}}', "nested"),
        ("post", "account/sign-in/", "[1, 2]", "Invalid data"),
    ],
)
def test_bodies_that_cannot_be_kept(api, recording, method, path, body, words):
    path, body = (text.replace("{id}", recording["id"]) for text in (path, body))
    assert words in told(api(method, path, body))


def test_a_body_above_the_limit(api, recording, monkeypatch):
    monkeypatch.setattr(settings, "DATA_UPLOAD_MAX_MEMORY_SIZE", 1000)
    body = json.dumps({"notes": "x" * 2000})
    assert "larger than" in told(api("patch", f"recordings/{recording['id']}/", body))


@pytest.mark.parametrize(
    "query",
    ["start_s=1e308", "start_s=nan", "start_s=inf", "end_s=1e308", "start_s=-1", "bins=1e30"],
)
@pytest.mark.parametrize("look", ["overview", "figures", "time-series", "spectrogram"])
def test_stretches_that_are_none(api, recording, look, query):
    answer = api("get", f"recordings/{recording['id']}/{look}/?{query}")
    if query == "bins=1e30" and look != "overview":
        assert answer.status_code == 200  # which no other look asks for
    else:
        told(answer)


def test_a_client_page_of_no_length(api, run):
    assert "at least 0.1 s" in told(
        api("get", f"runs/{run['id']}/client-page/?start_s=1&end_s=1.00001")
    )


@pytest.fixture
def run(api, recording):
    chain = {"steps": [{"type": "gain", "params": {"gain_db": -3}}]}
    api("put", f"recordings/{recording['id']}/chain/", json.dumps(chain))
    made = api("post", "runs/", json.dumps({"recording": recording["id"]})).json()
    return api("get", f"runs/{made['id']}/").json()


@pytest.mark.parametrize(
    "wanted", ["bytes=" + "9" * 5000 + "-", "bytes=0-" + "9" * 5000, "bytes=-" + "1" * 400]
)
def test_ranges_of_thousands_of_digits(api, run, wanted):
    answer = api("get", f"runs/{run['id']}/pair/", range=wanted)
    assert answer.status_code == 200


DAMAGED = io.BytesIO()
with zipfile.ZipFile(DAMAGED, "w", zipfile.ZIP_DEFLATED) as _archive:
    _archive.writestr("one.zesty.json", json.dumps({"format": "zesty-recipe"}) * 50)


@pytest.mark.parametrize("at", range(0, 200, 7))
def test_damaged_archives(api, db, at):
    data = bytearray(DAMAGED.getvalue())
    data[at % len(data)] ^= 0xFF
    answer = api("post", "recipes/import/?name=all.zip", bytes(data), "application/zip")
    told(answer)
    cut = DAMAGED.getvalue()[: max(2, at)]
    told(api("post", "recipes/import/?name=all.zip", cut, "application/zip"))


@pytest.mark.parametrize(
    ("lost", "path"),
    [
        ("result.wav", "runs/{run}/result/"),
        ("pair.flac", "runs/{run}/pair/"),
        ("pair.flac", "runs/{run}/client-page/"),
        ("result.wav", "runs/{run}/overview/?start_s=1&end_s=1.01"),
    ],
)
def test_results_that_are_gone(api, run, lost, path):
    row = Run.objects.get(pk=run["id"])
    (row.folder / lost).unlink()
    message = told(api("get", path.replace("{run}", run["id"])), 404)
    assert "gone" in message or "no such file" in message


def test_an_original_that_is_gone(api, recording):
    row = Recording.objects.get(pk=recording["id"])
    row.path.unlink()
    for path in ("audio/", "figures/", "overview/?start_s=1&end_s=1.01"):
        told(api("get", f"recordings/{recording['id']}/{path}"), 404)
    span = {"steps": [], "start_s": 1, "end_s": 3}
    told(api("post", f"recordings/{recording['id']}/passage/", json.dumps(span)), 404)


def batch_of(api, recordings):
    order = {"recordings": [r["id"] for r in recordings], "name_pattern": "{title}"}
    for recording in recordings:
        chain = {"steps": [{"type": "gain", "params": {"gain_db": -3}}]}
        api("put", f"recordings/{recording['id']}/chain/", json.dumps(chain))
    return api("post", "batches/", json.dumps(order)).json()["id"]


def test_a_receipt_that_is_gone(api, recording):
    batch_of(api, [recording])
    delivery = Delivery.objects.get()
    delivery.receipt_path.unlink()
    for path in ("receipt/", "receipt-page/"):
        assert "gone" in told(api("get", f"deliveries/{delivery.pk}/{path}"), 404)


def test_one_missing_delivery_leaves_the_others_of_the_archive(api, recording, another):
    second = api.upload(another(9), "Neap tide.wav").json()
    batch = batch_of(api, [recording, second])
    lost = Delivery.objects.get(name="Morning tide")
    lost.path.unlink()
    data = b"".join(api("get", f"batches/{batch}/download/").streaming_content)
    archive = zipfile.ZipFile(io.BytesIO(data))
    assert {"Neap tide.wav", "missing.txt"} <= set(archive.namelist())
    assert "Morning tide.wav" in archive.read("missing.txt").decode()


def test_a_damaged_overview_is_drawn_anew(api, recording):
    row = Recording.objects.get(pk=recording["id"])
    path = f"recordings/{recording['id']}/overview/"
    whole = api("get", path).json()
    for damaged in (b"", b"no array", row.overview_path.read_bytes()[:-40]):
        row.overview_path.write_bytes(damaged)
        assert api("get", path).json() == whole
    np.save(row.overview_path, np.zeros((3, 3)))
    assert api("get", path).json() == whole


@pytest.mark.parametrize("damaged", [b"", b"{", b"[]", b'{"room_tone": null, "facts": 5}'])
def test_damaged_facts_are_settled_anew(api, run, recording, damaged):
    Run.objects.get(pk=run["id"]).facts_path.write_bytes(damaged)
    span = {"steps": run["chain"], "start_s": 1, "end_s": 3}
    answer = api("post", f"recordings/{recording['id']}/passage/", json.dumps(span))
    assert answer.status_code == 200
    assert b"".join(answer.streaming_content)


def full_disk(*_, **__):
    raise OSError(errno.ENOSPC, "No space left on device")


def full_database(*_, **__):
    raise OperationalError("database or disk is full")


def away(*_, **__):
    raise OperationalError("the connection is closed")


@pytest.mark.parametrize(
    ("fault", "status", "words"),
    [(full_disk, 507, "disk is full"), (full_database, 507, "disk is full"), (away, 503, "again")],
)
def test_a_full_disk_or_a_database_that_is_away_is_said(
    api, recording, monkeypatch, fault, status, words
):
    monkeypatch.setattr(Recording, "save", fault)
    body = json.dumps({"notes": "ebb"})
    assert words in told(api("patch", f"recordings/{recording['id']}/", body), status)


def test_an_upload_given_up_while_its_piece_comes_in(api, db, monkeypatch):
    begin = {"name": "a.wav", "size_bytes": 100, "modified_ms": 1}
    upload = api("post", "uploads/", json.dumps(begin)).json()["id"]
    original = uploads.os.fsync

    def gone(fileno):
        Upload.objects.all().delete()
        original(fileno)

    monkeypatch.setattr(uploads.os, "fsync", gone)
    octets = "application/octet-stream"
    answer = api("put", f"uploads/{upload}/piece/?offset=0", b"x" * 50, octets)
    assert "given up" in told(answer, 409)
    assert not Upload(pk=upload).path.exists()


def test_a_bed_that_broke_off_is_not_kept(db):
    music = wav(noise(-30, 4))
    half = io.BytesIO(music[: len(music) // 2])
    folder = settings.MEDIA_ROOT / "beds"
    before = set(folder.iterdir()) if folder.exists() else set()
    with pytest.raises(BadInput, match="broke off after"):
        keep_bed(half, "tide.wav", len(music))
    assert not Bed.objects.exists()
    assert set(folder.iterdir()) == before


@pytest.mark.parametrize("length", [12, 20, 24, 28, 36, 43])
def test_a_wave_file_of_a_few_bytes(api, db, length):
    message = told(api.upload(wav(noise(-30, 1))[:length], "stub.wav"))
    assert message.startswith("stub.wav: ")
    assert api("get", "recordings/").json() == []


@pytest.mark.parametrize("kind", ["recipes", "targets"])
@pytest.mark.parametrize(
    ("data", "is_"),
    [
        (b"RIFF\x24\0\0\0WAVEfmt ", "a sound file"),
        (b"\0\0\0\x20ftypM4A ", "a sound or video file"),
        (b"<!doctype html><p>hello", "a web page"),
        (b"Dear warden,", "a text of another kind"),
        (b"", "empty"),
    ],
)
def test_a_wrong_file_for_an_import_says_what_was_expected(api, kind, data, is_):
    answer = api("post", f"{kind}/import/?name=take.wav", data, "application/octet-stream")
    assert answer.status_code == 400
    message = answer.json()["error"]["message"]
    assert is_ in message
    assert "Expecting value" not in message
    if data:
        assert f"expected a {kind[:-1]} document" in message
