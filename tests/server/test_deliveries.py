"""Targets, deliveries and their receipts; batches that pause, keep levels and are lost; versions."""

from __future__ import annotations

import io
import json
import zipfile
from types import SimpleNamespace

import numpy as np
import pyloudnorm
import pytest
import soundfile
from mutagen.mp3 import MP3

from tests.made_sound import PICTURE, RATE, STARTER, noise, spoken
from tests.server.conftest import wav
from zesty_cli.main import main
from zesty_core.audio.encoding import Encoding, make_writer
from zesty_core.audio.tag_reader import read_tags
from zesty_core.audio.tags import Cover as Picture
from zesty_server.batches.models import Batch
from zesty_server.deliveries.models import Delivery
from zesty_server.recordings.models import Recording
from zesty_server.runs import services as runs
from zesty_server.runs.models import Run
from zesty_server.runs.pair import before_of
from zesty_server.starters import add_starters
from zesty_server.targets.models import Target

BOUNDS = {"integrated_lufs": {"low": -20, "high": -18}, "true_peak_dbtp": {"high": -1}}


@pytest.fixture
def target(api):
    body = {"name": "Ours", "bounds": BOUNDS, "file": {"container": "MP3", "channels": 1}}
    answer = api("post", "targets/", json.dumps(body))
    assert answer.status_code == 201, answer.content
    return answer.json()


@pytest.fixture
def recipe(api):
    return api("post", "recipes/import/?name=starter", STARTER.read_bytes()).json()[0]


def started(api, **body):
    answer = api("post", "batches/", json.dumps(body))
    assert answer.status_code == 201, answer.content
    return api("get", f"batches/{answer.json()['id']}/").json()


def delivery_of(api, run):
    return api("get", f"runs/{run['id']}/").json()["delivery"]


def test_a_target_is_kept_changed_and_passed_on(api, target):
    assert target["sentences"][0] == "Loudness \u221220.0 to \u221218.0 LUFS"
    address = f"targets/{target['id']}/"
    body = {"name": "Theirs", "bounds": {"rms_dbfs": {"high": -20}}, "file": {}}
    changed = api("put", address, json.dumps(body)).json()
    assert changed["name"] == "Theirs"
    document = api("get", f"{address}document/").content
    again = api("post", "targets/import/?name=t.json", document).json()
    assert (again["name"], again["bounds"]) == ("Theirs 2", changed["bounds"])
    assert api("delete", address).status_code == 204


@pytest.mark.parametrize(
    ("body", "path"),
    [
        ({"name": "", "bounds": BOUNDS}, "name"),
        ({"name": "Ours", "bounds": BOUNDS}, "name"),
        ({"name": "A", "bounds": {"warmth": {"low": 1}}}, "bounds.warmth"),
        ({"name": "A", "bounds": {"head_s": {"low": 99}}}, "bounds.head_s.low"),
        ({"name": "A", "bounds": BOUNDS, "file": {"container": "AAC"}}, "file.container"),
        ({"name": "A"}, "bounds"),
    ],
)
def test_a_faulty_target_is_refused_with_the_path(api, target, body, path):
    answer = api("post", "targets/", json.dumps(body))
    assert answer.status_code == 400
    assert answer.json()["error"]["path"] == path


def test_a_recording_is_checked_and_its_chain_fitted(api, recording, target, recipe):
    address = f"recordings/{recording['id']}"
    no_target = api("post", "runs/", json.dumps({"recording": recording["id"], "fit": True}))
    assert "has no target" in no_target.json()["error"]["message"]
    api("put", f"{address}/target/", json.dumps({"target": target["id"]}))
    api("post", f"{address}/apply-recipe/", json.dumps({"recipe": recipe["id"]}))
    before = api("get", f"targets/{target['id']}/check/?recording={recording['id']}").json()
    assert [rule["name"] for rule in before] == list(BOUNDS)
    run = api("post", "runs/", json.dumps({"recording": recording["id"], "fit": True})).json()
    run = api("get", f"runs/{run['id']}/").json()
    assert run["state"] == "done"
    assert run["target_name"] == "Ours"
    assert run["chain"][-1]["params"]["target"] == -19.0
    rules = api("get", f"targets/{target['id']}/check/?run={run['id']}").json()
    assert all(rule["is_met"] for rule in rules)
    assert api("get", f"targets/{target['id']}/check/").status_code == 404
    assert api("get", f"targets/{target['id']}/check/?run=x").status_code == 400


def test_a_delivery_is_what_was_ordered(api, recording, target, recipe):
    kept = api("post", "covers/?name=c.png", PICTURE, "image/png").json()["cover"]
    batch = started(
        api,
        recordings=[recording["id"]],
        recipe=recipe["id"],
        target=target["id"],
        name_pattern="{number:02} {title}",
        tags={"title": "{title}", "album": "Letters"},
        cover=kept,
        own={recording["id"]: {"tags": {"comment": "take two"}}},
    )
    (run,) = batch["runs"]
    delivery = run["delivery"]
    assert delivery["file_name"] == "01 Morning tide.mp3"
    assert all(rule["is_met"] for rule in delivery["rules"]), delivery["rules"]
    answer = api("get", f"deliveries/{delivery['id']}/file/")
    sound = b"".join(answer.streaming_content)
    assert "01 Morning tide.mp3" in answer["Content-Disposition"]
    tags = MP3(io.BytesIO(sound)).tags
    assert (tags["TIT2"].text[0], tags["TALB"].text[0]) == ("Morning tide", "Letters")
    assert tags.getall("COMM")[0].text[0] == "take two"
    assert tags.getall("APIC")[0].data == PICTURE
    receipt = json.loads(
        b"".join(api("get", f"deliveries/{delivery['id']}/receipt/").streaming_content)
    )
    assert receipt["recording"]["sha256"] == Recording.objects.get().sha256
    assert receipt["recipe"] == {"name": recipe["name"], "version": 1}
    page = api("get", f"deliveries/{delivery['id']}/receipt-page/")
    assert b"Morning tide" in page.content
    latest = api("get", f"recordings/{recording['id']}/").json()
    assert latest["last_delivery"] == "01 Morning tide"


def test_the_command_line_makes_the_same_bytes(api, recording, recipe, tmp_path, take):
    add_starters()
    target = Target.objects.get(name="Audiobook chapter")
    batch = started(api, recordings=[recording["id"]], recipe=recipe["id"], target=str(target.pk))
    delivery = Delivery.objects.get(run_id=batch["runs"][0]["id"])
    (tmp_path / "Morning tide.wav").write_bytes(take)
    arguments = [str(tmp_path), "--recipe", str(STARTER), "--out", str(tmp_path / "out")]
    main(["batch", *arguments, "--target", target.name])
    made = (tmp_path / "out" / "Morning tide.mp3").read_bytes()
    assert made == delivery.path.read_bytes()
    # The head is shorter than it was recorded, and before and after still share their samples.
    run = Run.objects.get()
    assert run.cuts
    pair, rate = soundfile.read(run.pair_path)
    assert len(pair) == run.length_samples
    assert run.duration_s == pytest.approx(len(pair) / rate)


def test_names_are_previewed_with_collisions_resolved(api, recording, another):
    second = api.upload(another(2), "Morning tide.wav").json()["id"]
    body = {"recordings": [recording["id"], second], "name_pattern": "{title}"}
    planned = api("post", "batches/preview/", json.dumps(body)).json()
    assert [p["file_name"] for p in planned] == ["Morning tide.wav", "Morning tide 2.wav"]
    assert Batch.objects.count() == 0
    bad = api("post", "batches/preview/", json.dumps(body | {"name_pattern": "{colour}"}))
    assert bad.json()["error"]["path"] == "name_pattern"
    bad = api("post", "batches/preview/", json.dumps(body | {"tags": {"mood": "dry"}}))
    assert bad.json()["error"]["path"] == "tags.mood"


def test_a_set_keeps_its_differences(api, recording, another, recipe, target):
    second = api.upload(another(2), "Second.wav").json()["id"]
    measures = Recording.objects.get(pk=second).measures
    Recording.objects.filter(pk=second).update(
        measures=measures | {"integrated_lufs": measures["integrated_lufs"] - 6.0}
    )
    batch = started(
        api,
        recordings=[recording["id"], second],
        recipe=recipe["id"],
        target=target["id"],
        set_level="keep",
    )
    first, other = batch["runs"]
    offsets = [delivery_of(api, run)["offset_lu"] for run in (first, other)]
    assert offsets[0] - offsets[1] == pytest.approx(6, 0.02)
    assert first["after"]["integrated_lufs"] - other["after"]["integrated_lufs"] == pytest.approx(
        6, abs=0.3
    )


def test_a_batch_tells_what_another_can_be_set_up_as(api, recording, recipe, target):
    asked = {
        "recipe": recipe["id"],
        "target": target["id"],
        "file": {"container": "FLAC", "depth": "24"},
        "name_pattern": "{number:02} {title}",
        "set_level": "keep",
        "tags": {"title": "{title}", "album": "Letters"},
    }
    batch = started(api, recordings=[recording["id"]], **asked)
    told = {k: v for k, v in batch.items() if k in asked} | {"target": batch["ordered_target"]}
    told["file"] = {k: v for k, v in told["file"].items() if v is not None}
    assert told == asked
    again = started(api, recordings=[recording["id"]], **told)
    first, second = (delivery_of(api, b["runs"][0]) for b in (batch, again))
    assert second == first | {k: second[k] for k in ("id", "sha256")}
    # What is gone is reported as gone; that there was one is still known.
    api("delete", f"targets/{target['id']}/")
    api("delete", f"recipes/{recipe['id']}/")
    left = api("get", f"batches/{batch['id']}/").json()
    assert (left["recipe"], left["ordered_target"]) == (None, None)
    assert (left["recipe_name"], left["target_name"]) == (recipe["name"], target["name"])


def test_a_paused_batch_begins_nothing_until_it_goes_on(api, recording, recipe, monkeypatch):
    held = []

    def hold(run_id):
        held.append(run_id)
        return SimpleNamespace(id=run_id)

    task = SimpleNamespace(using=lambda **_: SimpleNamespace(enqueue=hold))
    monkeypatch.setattr("zesty_server.runs.tasks.do_run", task)
    batch = started(api, recordings=[recording["id"]], recipe=recipe["id"])
    assert api("post", f"batches/{batch['id']}/pause/").json()["paused"]
    runs.execute_run(held[0])
    assert Run.objects.get().state == "waiting"
    assert not api("post", f"batches/{batch['id']}/go-on/").json()["paused"]
    assert held == [held[0]] * 2
    runs.execute_run(held[1])
    assert Run.objects.get().state == "done"


def test_each_recording_may_run_its_own_chain(api, recording):
    chain = {"steps": [{"type": "gain", "params": {"gain_db": -3}}]}
    api("put", f"recordings/{recording['id']}/chain/", json.dumps(chain))
    batch = started(api, recordings=[recording["id"]], file={"container": "FLAC"})
    assert batch["recipe_name"] == ""
    (run,) = batch["runs"]
    assert run["delivery"]["file_name"] == "Morning tide.flac"
    assert run["delivery"]["rules"] == []
    moved = run["after"]["true_peak_dbtp"] - run["before"]["true_peak_dbtp"]
    assert moved == pytest.approx(-3, abs=0.01)


def test_the_archive_holds_files_and_receipts(api, recording, recipe):
    batch = started(api, recordings=[recording["id"]], recipe=recipe["id"])
    packed = api("get", f"batches/{batch['id']}/download/")
    archive = zipfile.ZipFile(io.BytesIO(b"".join(packed.streaming_content)))
    assert archive.namelist() == [
        "Morning tide.wav",
        "receipts/Morning tide.wav.receipt.json",
        "receipts/Morning tide.wav.receipt.html",
    ]


def test_versions_are_kept_and_gone_back_to(api, recipe, recording):
    address = f"recipes/{recipe['id']}"
    api("patch", f"{address}/", json.dumps({"steps": [{"type": "limiter"}]}))
    started(api, recordings=[recording["id"]], recipe=recipe["id"])
    use = api("get", f"{address}/use/").json()
    assert [(v["version"], v["runs"]) for v in use["versions"]] == [(2, 1), (1, 0)]
    assert [b["name"] for b in use["batches"]] == [recipe["name"]]
    back = api("post", f"{address}/go-back/", json.dumps({"version": 1})).json()
    assert back["version"] == 3
    assert back["steps"] == recipe["steps"]
    assert api("post", f"{address}/go-back/", json.dumps({"version": 9})).status_code == 400
    copy = api("post", f"{address}/copy/").json()
    assert (copy["name"], copy["version"]) == (f"{recipe['name']} copy", 1)


def test_recipes_travel_in_an_archive(api, recipe):
    api("post", f"recipes/{recipe['id']}/copy/")
    packed = api("get", "recipes/archive/").content
    assert len(zipfile.ZipFile(io.BytesIO(packed)).namelist()) == 2
    made = api("post", "recipes/import/?name=r.zip", packed).json()
    assert [m["steps"] for m in made] == [recipe["steps"]] * 2
    one = api("get", f"recipes/archive/?id={recipe['id']}").content
    assert len(zipfile.ZipFile(io.BytesIO(one)).namelist()) == 1


def _archive(**entries):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, text in entries.items():
            archive.writestr(f"{name}.json", text)
    return out.getvalue()


@pytest.mark.parametrize(
    ("data", "word"),
    [
        (_archive(), "1 to 500"),
        (_archive(a="{"), "no JSON document"),
        (_archive(a='{"format": "zesty-recipe", "version": 9}'), "a.json: version"),
        (b"PK\x03\x04 not an archive", "no archive"),
    ],
)
def test_a_faulty_archive_is_refused_whole(api, data, word):
    answer = api("post", "recipes/import/?name=r.zip", data)
    assert answer.status_code == 400
    assert word in answer.json()["error"]["message"]
    assert api("get", "recipes/").json() == []


def test_a_library_begins_with_starters_once(db):
    add_starters()
    count = Target.objects.count()
    Target.objects.first().delete()
    add_starters()
    assert Target.objects.count() == count - 1


def test_a_stereo_interview_in_mono_keeps_what_the_chain_did_to_each_side(api, target):
    """Host left, guest right and 10 dB lower, in turns; each side is normalized by itself."""
    silence, voice = np.zeros((1, 4 * RATE), np.float32), 0.4 * spoken(4)
    left = np.concatenate([voice, silence], axis=1)
    right = np.concatenate([silence, 0.3162 * voice], axis=1)
    sound = np.concatenate([left, right]) + noise(-75, 8, channels=2)
    recording = api.upload(wav(sound), "Interview.wav").json()
    step = {"type": "normalize", "params": {"link_channels": False}}
    api("put", f"recordings/{recording['id']}/chain/", json.dumps({"steps": [step]}))
    batch = started(
        api, recordings=[recording["id"]], target=target["id"], file={"container": "WAV"}
    )
    run = api("get", f"runs/{batch['runs'][0]['id']}/").json()
    made = Delivery.objects.get(run=run["id"])
    finished, rate = soundfile.read(made.path, always_2d=True)
    assert finished.shape[1] == run["channels"] == 1
    meter = pyloudnorm.Meter(rate)
    host, guest = (meter.integrated_loudness(x) for x in np.split(finished, [4 * rate]))
    assert host - guest == pytest.approx(0, abs=1.0)
    assert made.check_of_file
    assert all(rule["is_met"] for rule in made.check_of_file if rule["name"] in BOUNDS)
    # It is compared in one channel, before and after, at the recording's own edits.
    row = Run.objects.get(pk=run["id"])
    assert row.mono == ""
    assert soundfile.info(row.pair_path).channels == 2
    before = before_of(row).read(0, 8 * RATE)
    assert before == pytest.approx(sound.mean(axis=0, keepdims=True), abs=1e-6)


def test_tags_a_file_came_with_are_kept_and_can_be_left_out(api, tmp_path):
    path = tmp_path / "IMG_0031.mp3"
    came_with = {"title": "Ebb tide", "artist": "The warden", "comment": "first take"}
    picture = Picture.checked(PICTURE, "cover")
    with make_writer(path, Encoding("MP3"), RATE, 1, tags=came_with, cover=picture) as file:
        file.write(0.3 * spoken(5) + noise(-60, 5))
    recording = api.upload(path.read_bytes(), path.name).json()
    assert (recording["name"], recording["original_name"]) == ("Ebb tide", path.name)
    assert recording["tags"] == came_with
    wanted = {"recordings": [recording["id"]], "file": {"container": "FLAC"}}
    chain = {"steps": [{"type": "gain", "params": {"gain_db": -1}}]}
    api("put", f"recordings/{recording['id']}/chain/", json.dumps(chain))

    def tags_of(**more):
        run = started(api, **wanted, **more)["runs"][0]
        return read_tags(Delivery.objects.get(run=run["id"]).path)

    kept, cover = tags_of(tags={"album": "Pellanby", "artist": "The guide"})
    assert kept == {**came_with, "album": "Pellanby", "artist": "The guide"}
    assert cover == picture
    assert tags_of(keep_tags=False, tags={"album": "Pellanby"}) == ({"album": "Pellanby"}, None)
