"""What lies on the disk, what of it can go, and what stays with it."""

from __future__ import annotations

import json

import numpy as np
import pytest
from django.conf import settings

from tests.server.test_edits import result_of
from zesty_server.recordings.models import Recording
from zesty_server.recordings.room_tones import room_tone_for
from zesty_server.rooms.models import RoomTone
from zesty_server.runs.models import Run


def taken(api):
    return {kind["kind"]: kind for kind in api("get", "space/").json()["kinds"]}


def delivered(api, recording):
    body = {"name": "Out", "recordings": [recording["id"]], "recipe": None}
    batch = api("post", "batches/", json.dumps(body))
    assert batch.status_code == 201, batch.content
    return Run.objects.get(batch=batch.json()["id"])


def test_every_byte_is_told_by_what_it_is(api, recording):
    empty = taken(api)
    assert empty["recordings"]["count"] == 1
    assert empty["recordings"]["size_bytes"] >= recording["size_bytes"]
    assert {kind for kind, row in empty.items() if row["count"]} == {"recordings"}
    first, _ = result_of(api, recording)
    second, _ = result_of(api, recording)
    delivered(api, recording)
    full = taken(api)
    counts = {kind: row["count"] for kind, row in full.items()}
    assert counts == {
        "recordings": 1,
        "decoded": 0,
        "results": 1,
        "earlier_results": 1,
        "deliveries": 1,
        "beds": 0,
        "put_away": 0,
        "unfinished": 0,
    }
    of_first = sum(p.stat().st_size for p in Run.objects.get(pk=first["id"]).folder.iterdir())
    assert full["earlier_results"]["size_bytes"] == of_first
    on_disk = sum(
        p.stat().st_size
        for run in Run.objects.all()
        for p in (run.folder.iterdir() if run.folder.exists() else ())
    )
    told = sum(full[kind]["size_bytes"] for kind in ("results", "earlier_results", "deliveries"))
    assert told == on_disk
    assert api("get", "space/").json()["free_bytes"] > 0
    assert second["id"] != first["id"]


def test_earlier_results_go_and_what_is_used_stays(api, recording, another):
    first, _ = result_of(api, recording)
    second, _ = result_of(api, recording)
    sent = delivered(api, recording)
    other = api.upload(another(6), "Other.wav").json()
    only, _ = result_of(api, other)
    gone = Run.objects.get(pk=first["id"]).folder
    answer = api("delete", "space/earlier-results/")
    assert answer.status_code == 200
    assert {str(run.pk) for run in Run.objects.all()} == {second["id"], only["id"], str(sent.pk)}
    assert not gone.exists()
    assert taken(api)["earlier_results"]["count"] == 0
    # What stays can still be heard.
    assert api("get", f"runs/{second['id']}/result/").status_code == 200
    assert api("delete", "space/earlier-results/").status_code == 200


def test_deleted_recordings_are_listed_taken_back_or_removed(api, recording, another):
    other = api.upload(another(7), "Other.wav").json()
    for each in (recording, other):
        api("delete", f"recordings/{each['id']}/")
    listed = api("get", "put-away/").json()
    assert [row["name"] for row in listed] == ["Other", "Morning tide"]
    assert listed[1]["size_bytes"] >= recording["size_bytes"]
    assert listed[0]["goes_at"] > listed[0]["deleted_at"]
    api("post", f"recordings/{other['id']}/take-back/")
    assert taken(api)["put_away"]["count"] == 1
    folder = Recording.objects.get(pk=recording["id"]).folder
    api("delete", "space/put-away/")
    assert [r.name for r in Recording.objects.all()] == ["Other"]
    assert not folder.exists()
    assert api("get", "put-away/").json() == []


def test_only_what_can_go_is_removed(api, recording):
    answer = api("delete", "space/recordings/")
    assert answer.status_code == 400
    assert "earlier-results, put-away" in answer.json()["error"]["message"]
    assert Recording.objects.exists()


@pytest.fixture
def marked(api, recording):
    body = json.dumps({"start_s": 0.2, "end_s": 1.7, "name": "Boat shed"})
    answer = api("post", f"recordings/{recording['id']}/mark-room-tone/", body)
    assert answer.status_code in (200, 201), answer.content
    return RoomTone.objects.get()


def test_a_room_tone_outlives_its_recording(api, recording, marked, another):
    other = api.upload(another(8), "Other.wav").json()
    api(
        "put",
        f"recordings/{other['id']}/room-tone/",
        json.dumps({"room_tone": str(marked.pk)}),
    )
    using = Recording.objects.get(pk=other["id"])
    before = room_tone_for(using)
    heard = api("get", f"room-tones/{marked.pk}/audio/").content
    api("delete", f"recordings/{recording['id']}/")
    api("delete", "space/put-away/")
    assert not Recording.objects.filter(pk=recording["id"]).exists()
    told = api("get", "room-tones/").json()
    assert [(t["name"], t["recording"], t["recording_name"]) for t in told] == [
        ("Boat shed", None, None)
    ]
    after = room_tone_for(Recording.objects.get(pk=other["id"]))
    np.testing.assert_array_equal(after.samples, before.samples)
    assert after.sample_rate_hz == before.sample_rate_hz
    assert api("get", f"room-tones/{marked.pk}/audio/").content == heard
    run, _ = result_of(api, other)
    assert run["room_tone"]["source"] == "other recording"
    api("delete", f"room-tones/{marked.pk}/")
    assert list((settings.MEDIA_ROOT / "room-tones").iterdir()) == []


def test_a_room_tone_that_cannot_be_read_goes_with_its_recording(api, recording, marked):
    path = Recording.objects.get(pk=recording["id"]).path
    path.chmod(0o644)
    path.write_bytes(b"gone")
    api("delete", f"recordings/{recording['id']}/")
    assert api("delete", "space/put-away/").status_code == 200
    assert not RoomTone.objects.exists()
