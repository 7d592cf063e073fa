"""What comes into a watched folder is measured, run, delivered and told."""

from __future__ import annotations

import json
import os

import pytest
import soundfile

from zesty_server.accounts.owning import seen_by
from zesty_server.recordings.models import Recording
from zesty_server.watched.models import WatchedFolder
from zesty_server.watched.scanning import scan_folders

GAIN = [{"type": "gain", "params": {"gain_db": 1.0}}]


@pytest.fixture
def recipe(api):
    body = json.dumps({"name": "Up a little", "steps": GAIN})
    return api("post", "recipes/", body).json()["id"]


@pytest.fixture
def watch(api, recipe, tmp_path):
    folder = tmp_path / "in"
    folder.mkdir()

    def begin(**more):
        return api(
            "post", "watched-folders/", json.dumps({"folder": str(folder), "recipe": recipe} | more)
        )

    begin.folder = folder
    return begin


@pytest.fixture
def look(django_capture_on_commit_callbacks):
    """Looks in turn, as the process that looks after the workers takes them."""

    def looks(times=6):
        for _ in range(times):
            with django_capture_on_commit_callbacks(execute=True):
                scan_folders()

    return looks


def told(api):
    [one] = api("get", "watched-folders/").json()
    return one


def test_a_file_that_comes_in_is_delivered_with_its_receipt(api, watch, look, take):
    made = watch()
    assert made.status_code == 201, made.content
    assert told(api)["out_folder"] == str(watch.folder / "delivered")
    (watch.folder / "Morning tide.wav").write_bytes(take)
    (watch.folder / "notes.txt").write_text("not a sound")
    look()
    one = told(api)
    [file] = one["files"]
    assert (file["state"], file["delivered_as"]) == ("delivered", "Morning tide.wav")
    assert (one["delivered"], one["problem"], one["error"]) == (1, "", "")
    out = watch.folder / "delivered" / "Morning tide.wav"
    assert soundfile.info(out).duration == pytest.approx(5.0)
    receipt = json.loads(out.with_name("Morning tide.wav.receipt.json").read_text())
    assert receipt["recipe"]["name"] == "Up a little"
    assert (watch.folder / "Morning tide.wav").read_bytes() == take
    assert sorted(p.name for p in out.parent.iterdir()) == [out.name, f"{out.name}.receipt.json"]
    # It is on the page as any other, with its batch.
    [recording] = api("get", "recordings/").json()
    assert recording["recipe_name"] == "Up a little"
    assert len(api("get", f"batches/{one['batch']}/").json()["runs"]) == 1


def test_a_file_that_still_grows_is_waited_for(api, watch, look, take):
    watch()
    path = watch.folder / "Growing.wav"
    for size in (100, 2_000, 40_000):
        path.write_bytes(take[:size])
        look(1)
        assert told(api)["files"] == []
    path.write_bytes(take)
    look()
    assert [f["state"] for f in told(api)["files"]] == ["delivered"]


def test_several_files_share_a_batch_and_none_is_done_twice(api, watch, look, another):
    watch()
    for seed in (1, 2):
        (watch.folder / f"take {seed}.wav").write_bytes(another(seed))
    look()
    (watch.folder / "take 3.wav").write_bytes(another(3))
    look(8)
    one = told(api)
    assert one["delivered"] == 3
    assert len(api("get", f"batches/{one['batch']}/").json()["runs"]) == 3
    assert len(api("get", "recordings/").json()) == 3


def test_another_file_under_the_same_name_is_delivered_beside_the_first(api, watch, look, another):
    watch()
    path = watch.folder / "take.wav"
    path.write_bytes(another(1))
    look()
    path.write_bytes(another(2))
    os.utime(path, ns=(1, 1))
    look()
    assert sorted(f["delivered_as"] for f in told(api)["files"]) == ["take 2.wav", "take.wav"]


def test_a_file_that_is_here_already_is_delivered_from_the_recording(
    api, watch, look, recording, take
):
    watch()
    (watch.folder / "Again.wav").write_bytes(take)
    look()
    [file] = told(api)["files"]
    assert (file["state"], file["recording"]) == ("delivered", recording["id"])
    assert len(api("get", "recordings/").json()) == 1
    # Its own chain is not touched.
    assert api("get", f"recordings/{recording['id']}/").json()["chain"] == recording["chain"]


def test_what_fails_says_why_and_stops_nothing_else(api, watch, look, take):
    watch()
    (watch.folder / "broken.wav").write_bytes(b"RIFF and nothing of use")
    (watch.folder / "fine.wav").write_bytes(take)
    look()
    states = {f["name"]: f for f in told(api)["files"]}
    assert states["fine.wav"]["state"] == "delivered"
    assert states["broken.wav"]["state"] == "failed"
    assert "broken.wav" in states["broken.wav"]["message"]


def test_a_missed_target_is_told_beside_the_file(api, watch, look, take):
    body = {"name": "Long head", "bounds": {"loudness_range_lu": {"low": 18}}}
    target = api("post", "targets/", json.dumps(body))
    assert target.status_code == 201, target.content
    watch(target=target.json()["id"])
    (watch.folder / "take.wav").write_bytes(take)
    look()
    [file] = told(api)["files"]
    assert file["state"] == "delivered"
    assert file["message"].startswith("misses the target: Loudness range")


def test_paused_it_waits_and_goes_on(api, watch, look, take):
    made = watch().json()
    change = lambda **what: api("patch", f"watched-folders/{made['id']}/", json.dumps(what))  # noqa: E731
    assert change(paused=True).status_code == 200
    (watch.folder / "take.wav").write_bytes(take)
    look()
    assert told(api)["files"] == []
    change(paused=False)
    look()
    assert told(api)["delivered"] == 1


def test_a_folder_that_is_gone_is_told_until_it_is_back(api, watch, look, take):
    watch()
    away = watch.folder.rename(watch.folder.with_name("away"))
    look(1)
    assert "No such file" in told(api)["problem"]
    away.rename(watch.folder)
    (watch.folder / "take.wav").write_bytes(take)
    look()
    assert told(api)["problem"] == ""
    assert told(api)["delivered"] == 1


def test_without_its_recipe_files_wait_with_a_reason(api, watch, look, recipe, take):
    watch()
    assert api("delete", f"recipes/{recipe}/").status_code == 204
    (watch.folder / "take.wav").write_bytes(take)
    look()
    [file] = told(api)["files"]
    assert "recipe of this folder was deleted" in file["message"]


def test_a_folder_watched_again_delivers_nothing_twice_until_the_recipe_changes(
    api, watch, look, take
):
    made = watch().json()
    (watch.folder / "take.wav").write_bytes(take)
    look()
    api("delete", f"watched-folders/{made['id']}/")
    watch()
    look()
    [file] = told(api)["files"]
    assert (file["state"], file["delivered_as"]) == ("delivered", "take.wav")
    assert len(api("get", f"runs/?recording={file['recording']}").json()) == 1
    other = json.dumps({"name": "Down", "steps": [{"type": "gain", "params": {"gain_db": -1}}]})
    recipe = api("post", "recipes/", other).json()["id"]
    change = api("patch", f"watched-folders/{told(api)['id']}/", json.dumps({"recipe": recipe}))
    assert change.json()["recipe"] == recipe
    path = watch.folder / "take.wav"
    os.utime(path, ns=(5, 5))
    look()
    assert told(api)["files"][0]["delivered_as"] == "take 2.wav"


def test_forgetting_a_folder_leaves_what_was_made(api, watch, look, take):
    made = watch().json()
    (watch.folder / "take.wav").write_bytes(take)
    look()
    assert api("delete", f"watched-folders/{made['id']}/").status_code == 204
    assert (watch.folder / "delivered" / "take.wav").exists()
    assert len(api("get", "recordings/").json()) == 1


@pytest.mark.parametrize(
    ("body", "words"),
    [
        ({"folder": "relative/one"}, "begins with /"),
        ({"folder": "/no/such/folder"}, "not there"),
        ({"folder": ""}, "folder"),
        ({"out_folder": "IN"}, "another one"),
        ({"recipe": "00000000-0000-0000-0000-000000000000"}, "recipe"),
    ],
)
def test_folders_that_cannot_be_watched(api, watch, body, words):
    if body.get("out_folder") == "IN":
        body = {"out_folder": str(watch.folder)}
    answer = watch(**body)
    assert answer.status_code == 400
    assert words in json.dumps(answer.json())
    assert api("get", "watched-folders/").json() == []


def test_the_programs_own_folder_and_folders_that_feed_each_other_are_refused(
    api, watch, settings, tmp_path
):
    answer = watch(folder=str(settings.DATA))
    assert "program itself" in answer.json()["error"]["message"]
    watch()
    again = watch()
    assert "watched already" in again.json()["error"]["message"]
    back = watch(folder=str(watch.folder / "delivered"), out_folder=str(tmp_path / "b"))
    assert "into each other" in back.json()["error"]["message"]


def test_folders_to_choose_from(api, tmp_path):
    for name in ("tides", "terns", ".hidden"):
        (tmp_path / name).mkdir()
    (tmp_path / "file").write_text("")
    found = lambda under: api("get", f"folders/?under={under}").json()["folders"]  # noqa: E731
    assert found(f"{tmp_path}/") == [f"{tmp_path}/terns", f"{tmp_path}/tides"]
    assert found(f"{tmp_path}/ti") == [f"{tmp_path}/tides"]
    assert found("no/whole/path") == []
    assert found("/no/such/") == []


def test_where_people_sign_in_only_opened_folders_and_each_sees_their_own(
    warden, guide, settings, tmp_path, take, look
):
    opened, closed = tmp_path / "opened", tmp_path / "closed"
    (opened / "in").mkdir(parents=True)
    closed.mkdir()
    settings.WATCHABLE = [str(opened)]
    recipe = warden.send("post", "recipes/", name="Up", steps=GAIN).json()["id"]
    refused = warden.send("post", "watched-folders/", folder=str(closed), recipe=recipe)
    assert refused.status_code == 400
    assert "ZESTY_WATCHABLE" in refused.json()["error"]["message"]
    sneaky = warden.send("post", "watched-folders/", folder=f"{opened}/../closed", recipe=recipe)
    assert sneaky.status_code == 400
    for typed in (f"{tmp_path}/", "/"):
        assert warden("get", f"folders/?under={typed}").json()["folders"] == [str(opened)]
    made = warden.send("post", "watched-folders/", folder=str(opened / "in"), recipe=recipe)
    assert made.status_code == 201, made.content
    (opened / "in" / "take.wav").write_bytes(take)
    (closed / "secret.wav").write_bytes(take[:-3])
    (opened / "in" / "link.wav").symlink_to(closed / "secret.wav")
    look()
    assert warden("get", "watched-folders/").json()[0]["delivered"] == 1
    assert guide("get", "watched-folders/").json() == []
    assert guide("get", "recordings/").json() == []
    [recording] = warden("get", "recordings/").json()
    with seen_by(None):
        assert Recording.objects.get(pk=recording["id"]).owner == WatchedFolder.objects.get().owner
