"""Recipes, runs and batches; work that is lost, stopped, tried again."""

from __future__ import annotations

import io
import json
import zipfile

import numpy as np
import pytest
import soundfile

from tests.made_sound import STARTER
from zesty_core.chain.runner import Progress
from zesty_core.foundation.errors import Cancelled, UnwritableAudio
from zesty_server.jobs.attempts import work_on
from zesty_server.jobs.models import JobState
from zesty_server.jobs.services import claim, request_cancel
from zesty_server.recordings.models import Recording
from zesty_server.runs import services
from zesty_server.runs.models import Run


@pytest.fixture
def recipe(api):
    answer = api("post", "recipes/import/?name=starter", STARTER.read_bytes())
    assert answer.status_code == 201
    return answer.json()[0]


@pytest.fixture
def run(api, recording, recipe):
    api("post", f"recordings/{recording['id']}/apply-recipe/", json.dumps({"recipe": recipe["id"]}))
    started = api("post", "runs/", json.dumps({"recording": recording["id"]}))
    assert started.status_code == 201
    return api("get", f"runs/{started.json()['id']}/").json()


def test_a_run_keeps_what_went_in_and_what_came_out(api, run, recording):
    assert run["state"] == "done"
    assert run["engine_version"]
    assert [p["type"] for p in run["points"]] == [s["type"] for s in run["chain"]]
    assert run["after"]["voice_level_dbfs"] == pytest.approx(-22, abs=0.2)
    latest = api("get", f"recordings/{recording['id']}/").json()["latest_run"]
    assert latest == run["id"]


def test_pair_holds_before_and_after_of_the_same_samples(api, run, take):
    answer = api("get", f"runs/{run['id']}/pair/")
    pair, _ = soundfile.read(io.BytesIO(b"".join(answer.streaming_content)), always_2d=True)
    result = api("get", f"runs/{run['id']}/result/")
    assert result["Content-Disposition"] == 'attachment; filename="Morning tide.wav"'
    after, _ = soundfile.read(io.BytesIO(b"".join(result.streaming_content)))
    before, _ = soundfile.read(io.BytesIO(take))
    assert pair.shape == (len(before), 2)
    assert np.abs(pair[:, 0] - before).max() < 2e-7
    assert np.abs(pair[:, 1] - after).max() < 2e-7


def test_changing_the_chain_later_changes_no_run(api, run, recording):
    api("put", f"recordings/{recording['id']}/chain/", json.dumps({"steps": []}))
    assert len(api("get", f"runs/{run['id']}/").json()["chain"]) == 6


def test_a_chain_comes_back_with_where_it_came_from(api, recording, recipe):
    address = f"recordings/{recording['id']}"
    api("post", f"{address}/apply-recipe/", json.dumps({"recipe": recipe["id"]}))
    kept = {"steps": [], "recipe": None, "recipe_version": None}
    back = api("put", f"{address}/chain/", json.dumps(kept)).json()
    assert (back["chain"], back["recipe"], back["recipe_version"]) == ([], None, None)
    # A change of the chain alone leaves that as it is.
    api("post", f"{address}/apply-recipe/", json.dumps({"recipe": recipe["id"]}))
    assert (
        api("put", f"{address}/chain/", json.dumps({"steps": []})).json()["recipe"] == recipe["id"]
    )


def test_an_empty_chain_is_not_run(api, recording):
    answer = api("post", "runs/", json.dumps({"recording": recording["id"]}))
    assert answer.status_code == 400
    assert "no step" in answer.json()["error"]["message"]


def test_recipe_life(api, recipe):
    address = f"recipes/{recipe['id']}/"
    assert api("patch", address, json.dumps({"name": "Kitchen"})).json()["name"] == "Kitchen"
    changed = api("patch", address, json.dumps({"steps": [{"type": "limiter"}]})).json()
    assert changed["version"] == 2
    assert changed["sentences"] == [
        "Holds every peak, between the samples too, under \u22121 dBTP."
    ]
    document = api("get", f"{address}document/")
    assert json.loads(document.content)["name"] == "Kitchen"
    (again,) = api("post", "recipes/import/?name=x", document.content).json()
    assert again["name"] == "Kitchen 2"
    taken = api("patch", address, json.dumps({"name": "Kitchen 2"}))
    assert taken.json()["error"]["path"] == "name"
    assert api("delete", address).status_code == 204


@pytest.mark.parametrize(
    ("body", "path"),
    [
        ({"name": "", "steps": []}, "name"),
        ({"name": "A", "steps": [{"type": "x"}]}, "steps[0].type"),
        ({"name": "A"}, "steps"),
        (
            {"name": "A", "steps": [{"type": "eq", "params": {"bands": [{"q": 0}]}}]},
            "steps[0].params.bands[0].q",
        ),
    ],
)
def test_bad_recipes_are_refused_with_the_path(api, body, path):
    answer = api("post", "recipes/", json.dumps(body))
    assert answer.status_code == 400
    assert answer.json()["error"]["path"] == path


def test_a_batch_runs_all_and_a_failing_file_stops_no_other(api, recording, recipe, another):
    second = api.upload(another(2), "Morning tide.wav").json()["id"]
    take = another(3)
    broken = api.upload(take, "Broken.wav").json()["id"]
    path = Recording.objects.get(pk=broken).path
    path.chmod(0o644)
    path.write_bytes(take[:5000])
    body = {
        "name": "November",
        "recipe": recipe["id"],
        "recordings": [broken, recording["id"], second],
    }
    batch = api("post", "batches/", json.dumps(body)).json()
    runs = api("get", f"batches/{batch['id']}/").json()["runs"]
    assert [r["state"] for r in runs] == ["failed", "done", "done"]
    assert "ends early" in runs[0]["error"]
    packed = api("get", f"batches/{batch['id']}/download/")
    archive = zipfile.ZipFile(io.BytesIO(b"".join(packed.streaming_content)))
    names = [name for name in archive.namelist() if not name.startswith("receipts/")]
    assert names == ["Morning tide.wav", "Morning tide 2.wav"]
    assert archive.testzip() is None
    path.write_bytes(take)
    assert api("post", f"runs/{runs[0]['id']}/retry/").status_code == 200
    assert api("get", f"runs/{runs[0]['id']}/").json()["state"] == "done"


def test_asking_for_batches_costs_the_same_for_many_files_as_for_few(
    api, recipe, another, django_assert_num_queries
):
    ids = [api.upload(another(seed), f"Take {seed}.wav").json()["id"] for seed in (11, 12, 13)]
    made = [
        api("post", "batches/", json.dumps({"recordings": some, "recipe": recipe["id"]})).json()
        for some in (ids[:1], ids)
    ]
    with django_assert_num_queries(1):
        listed = api.client.get("/api/batches/").json()
    assert [(b["done"], b["to_go"], b["stopped"]) for b in listed] == [(3, 0, 0), (1, 0, 0)]
    assert all("runs" not in b for b in listed)
    for batch, files in zip(made, (1, 3), strict=True):
        with django_assert_num_queries(2):
            whole = api.client.get(f"/api/batches/{batch['id']}/").json()
        assert [run["state"] for run in whole["runs"]] == ["done"] * files
        assert whole["runs"][0]["after"]["integrated_lufs"] is not None
    for nothing in ("batches/soon/", "batches/00000000-0000-4000-8000-000000000000/"):
        assert api("get", nothing).status_code == 404


@pytest.mark.parametrize(
    ("text", "told"),
    [
        (b"no JSON", "no JSON document"),
        (b" " * 3_000_000, "larger than"),
        (b'{"format": 1}', "format"),
    ],
)
def test_what_is_no_recipe_is_not_imported(api, text, told):
    answer = api("post", "recipes/import/?name=x.json", text)
    assert answer.status_code == 400
    assert told in answer.json()["error"]["message"]


@pytest.mark.parametrize("recordings", [[], ["00000000-0000-0000-0000-000000000000"]])
def test_a_batch_of_nothing_is_refused(api, recipe, recordings):
    body = {"recipe": recipe["id"], "recordings": recordings}
    answer = api("post", "batches/", json.dumps(body))
    assert answer.status_code == 400
    assert answer.json()["error"]["path"].startswith("recordings")


def waiting_run(recording):
    return Run.objects.create(
        recording_id=recording["id"], chain=[{"type": "gain"}], engine_version="1"
    )


def test_a_full_disk_fails_the_run_in_one_line_and_leaves_no_file(recording, monkeypatch, db):
    def full(*_, **__):
        raise UnwritableAudio("result.wav", "the disk is full")

    monkeypatch.setattr(services.AudioWriter, "write", full)
    run = waiting_run(recording)
    services.execute_run(str(run.pk))
    run.refresh_from_db()
    assert run.state == JobState.FAILED
    assert run.error == "result.wav was not written: the disk is full"
    assert not run.folder.exists()


def test_an_unexpected_error_shows_no_traceback(recording, monkeypatch, db):
    monkeypatch.setattr(services, "run_chain", lambda *_, **__: 1 / 0)
    run = waiting_run(recording)
    services.execute_run(str(run.pk))
    run.refresh_from_db()
    assert run.state == JobState.FAILED
    assert "ZeroDivision" not in run.error


def test_cancelling_before_and_during_the_work(recording, db):
    early = waiting_run(recording)
    request_cancel(early)
    services.execute_run(str(early.pk))
    early.refresh_from_db()
    assert early.state == JobState.CANCELLED

    def work(job, attempt):
        request_cancel(job)
        attempt.progress(Progress(0.5, "half"))
        assert attempt.cancelled()
        raise Cancelled

    late = waiting_run(recording)
    work_on(claim(Run, late.pk), work)
    late.refresh_from_db()
    assert late.state == JobState.CANCELLED


def test_a_result_is_named(api, run):
    """Its name is a person's own; an empty one takes it away."""
    for label in ("Warmer", ""):
        answer = api("patch", f"runs/{run['id']}/", json.dumps({"label": label}))
        assert answer.status_code == 200, answer.content
        assert api("get", f"runs/{run['id']}/").json()["label"] == label
    assert api("patch", f"runs/{run['id']}/", json.dumps({"label": "x" * 121})).status_code == 400
