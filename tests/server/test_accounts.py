"""Accounts: who may come in, that nobody sees what is another's, and that one person needs none."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from django.apps import apps
from django.contrib.auth.models import User
from django.db import IntegrityError, transaction
from django.urls import get_resolver
from django.urls.resolvers import URLResolver
from rest_framework import serializers

from tests.made_sound import noise
from tests.server.conftest import GUIDE, WARDEN, wav
from tests.server.test_beds import tone
from tests.server.test_sides import sides
from zesty_core.foundation.errors import BadInput
from zesty_server.accounts import services
from zesty_server.accounts.models import Owned, SignInTries
from zesty_server.accounts.one_of import OneOf
from zesty_server.accounts.owning import OwnedManager, seen_by
from zesty_server.recordings.models import Recording

ROOT = Path(__file__).parents[2]
API = json.loads((ROOT / "docs" / "openapi.json").read_text())["paths"]
STEPS = [{"type": "gain", "params": {"gain_db": -3}}]


@pytest.fixture
def of_warden(warden, take, settings, tmp_path):
    """One of everything, by the first word of its address."""

    def made(path, **body):
        answer = warden.send("post", f"{path}/", **body)
        assert answer.status_code == 201, answer.content
        return answer.json()["id"]

    ids = {"recordings": warden.upload(take, "Morning tide.wav").json()["id"]}
    recording = f"recordings/{ids['recordings']}"
    ids["recipes"] = made("recipes", name="Every week", steps=STEPS)
    ids["saved-settings"] = made("saved-settings", type="gain", name="Down", params={"gain_db": -3})
    bounds = {"true_peak_dbtp": {"high": -1}}
    ids["targets"] = made("targets", name="Quiet enough", bounds=bounds)
    marked = warden.send(
        "post", f"{recording}/mark-room-tone/", start_s=0.2, end_s=1.5, name="boat shed"
    )
    ids["room-tones"] = marked.json()["room_tone"]["id"]
    warden.send("post", f"{recording}/apply-recipe/", recipe=ids["recipes"])
    ids["runs"] = made("runs", recording=ids["recordings"])
    ids["batches"] = made("batches", recordings=[ids["recordings"]], name="Monday")
    (row,) = warden("get", f"batches/{ids['batches']}/").json()["runs"]
    ids["deliveries"] = row["delivery"]["id"]
    sound = wav(tone().read(0, 44_100), 44_100)
    ids["beds"] = warden(
        "post", "beds/upload/?name=Slow tide.wav", sound, "application/octet-stream"
    ).json()["id"]
    ids["mixes"] = made("mixes", run=ids["runs"], bed=ids["beds"])
    span = {"recording": ids["recordings"], "start_s": 2.0, "end_s": 4.0}
    ids["blind-picks"] = made("blind-picks", **span, chain=STEPS, picked_after=[True] * 5)
    entries = [{"label": name, "steps": STEPS, "note": ""} for name in ("one", "two")]
    ids["tastings"] = made("tastings", **span, blind=False, entries=entries)
    ids["house-voices"] = made("house-voices", name="Reeds", recordings=[ids["recordings"]])
    ids["uploads"] = made("uploads", name="Neap.wav", size_bytes=900, modified_ms=1)
    settings.WATCHABLE = [str(tmp_path)]
    folder = str(tmp_path)
    ids["watched-folders"] = made("watched-folders", folder=folder, recipe=ids["recipes"])
    warden.send("patch", "preferences/", recipe=ids["recipes"], target=ids["targets"])
    return ids


def kind_of(path):
    return path.split("/")[2]


ON_ONE = [(path, method) for path in API if "{id}" in path for method in API[path]]
LISTS = [p for p in API if "{" not in p and "get" in API[p] and f"{p}{{id}}/" in API]


def test_whoever_is_not_signed_in_sees_the_page_and_nothing_else(enter, warden, of_warden):
    stranger = enter()
    assert stranger("get", "account/").json() == {"accounts": True, "name": None}
    assert stranger.client.get("/recordings").status_code == 200
    told = {"error": {"code": "sign_in", "message": "Sign in first.", "path": None}}
    open_to_all = {"/api/account/", "/api/account/sign-in/"}
    for path in set(API) - open_to_all:
        here = path.replace("{id}", of_warden.get(kind_of(path), "")).removeprefix("/api/")
        for method in API[path]:
            answer = stranger(method, here.replace("{what}", "put-away"), "{}")
            assert (answer.status_code, answer.json()) == (401, told), (method, path)


def test_nobody_sees_what_is_anothers(warden, of_warden, guide):
    for path in LISTS:
        mine, theirs = warden("get", path[5:]).json(), guide("get", path[5:]).json()
        assert of_warden[kind_of(path)] in [row["id"] for row in mine], path
        assert not {row["id"] for row in mine} & {row["id"] for row in theirs}, path
    for path, method in ON_ONE:
        here = path.removeprefix("/api/").replace("{id}", of_warden[kind_of(path)])
        answer = guide(method, here, "{}")
        # What is asked for may be judged before it is looked for.
        assert answer.status_code in ((404,) if method in ("get", "delete") else (400, 404)), path
        assert str(of_warden["recordings"]) not in answer.content.decode()
    for path, method in ON_ONE:
        if method == "get":
            here = path.removeprefix("/api/").replace("{id}", of_warden[kind_of(path)])
            query = "?start_s=0.2&end_s=1.5" if "room-profile" in path else ""
            query = f"?run={of_warden['runs']}" if "check" in path else query
            query = f"?recording={of_warden['recordings']}" if "distance" in path else query
            assert warden(method, here + query).status_code == 200, path


def test_nothing_can_be_made_of_what_is_anothers(warden, of_warden, guide, another):
    mine = guide.upload(another(7), "Evening tide.wav").json()["id"]
    guide.send("put", f"recordings/{mine}/chain/", steps=STEPS)
    run = guide.send("post", "runs/", recording=mine).json()["id"]
    theirs = of_warden
    for method, path, body in (
        ("post", "runs/", {"recording": theirs["recordings"]}),
        ("post", "batches/", {"recordings": [mine, theirs["recordings"]]}),
        ("post", "batches/", {"recordings": [mine], "recipe": theirs["recipes"]}),
        ("post", "batches/preview/", {"recordings": [mine], "target": theirs["targets"]}),
        ("post", "mixes/", {"run": run, "bed": theirs["beds"]}),
        ("post", "mixes/", {"run": theirs["runs"], "bed": theirs["beds"]}),
        ("post", "house-voices/", {"name": "Ours", "recordings": [theirs["recordings"]]}),
        ("put", f"recordings/{mine}/room-tone/", {"room_tone": theirs["room-tones"]}),
        ("put", f"recordings/{mine}/target/", {"target": theirs["targets"]}),
        ("post", f"recordings/{mine}/apply-recipe/", {"recipe": theirs["recipes"]}),
        ("put", f"recordings/{mine}/chain/", {"steps": STEPS, "recipe": theirs["recipes"]}),
        ("patch", "preferences/", {"recipe": theirs["recipes"]}),
        ("post", "tastings/", {"recording": theirs["recordings"], "entries": []}),
    ):
        assert guide.send(method, path, **body).status_code in (400, 404), (path, body)
    starters = {row["id"] for row in guide("get", "targets/").json()}
    for target in starters:
        asked = guide("get", f"targets/{target}/check/?run={theirs['runs']}")
        assert asked.status_code == 404


def test_an_answer_in_parts_is_made_for_who_asked(warden, of_warden, guide, another):
    """Sides of a comparison are rendered while the answer is already under way."""
    mine = guide.upload(another(7), "Evening tide.wav").json()["id"]
    theirs = (
        {"kind": "recording", "of": of_warden["recordings"]},
        {"kind": "run", "of": of_warden["runs"]},
    )
    _, told, _ = sides(guide, {"id": mine}, {"kind": "before"}, *theirs)
    assert "measures" in told[0]
    assert all("not there any more" in one["error"] for one in told[1:])


def test_each_has_a_library_of_their_own(warden, of_warden, guide, take):
    assert guide("get", "preferences/").json()["recipe"] is None
    assert warden("get", "preferences/").json()["recipe"] == of_warden["recipes"]
    names = {row["name"] for row in guide("get", "recipes/").json()}
    assert len(names - {"Every week"}) == len(names) > 3
    # The same names, the same file, in two libraries; not twice in one.
    assert guide.send("post", "recipes/", name="Every week", steps=STEPS).status_code == 201
    assert guide.send("post", "recipes/", name="Every week", steps=STEPS).status_code == 400
    assert guide.upload(take, "Morning tide.wav").status_code == 201
    assert guide.upload(take, "Morning tide.wav").json()["error"]["code"] == "duplicate"
    again = guide.send("post", "uploads/", name="Neap.wav", size_bytes=900, modified_ms=1)
    assert again.json()["id"] != of_warden["uploads"]
    sizes = {k["kind"]: k["count"] for k in guide("get", "space/").json()["kinds"]}
    assert (sizes["recordings"], sizes["beds"], sizes["deliveries"]) == (1, 0, 0)
    warden("delete", f"recordings/{of_warden['recordings']}/")
    assert guide("delete", "space/put-away/").status_code == 200
    assert len(warden("get", "put-away/").json()) == 1


def test_the_first_account_takes_over_what_is_there(api, recording, enter, settings):
    settings.ACCOUNTS = False
    services.add_account(*WARDEN)
    assert [r["id"] for r in api("get", "recordings/").json()] == [recording["id"]]
    settings.ACCOUNTS = True
    services.add_account(*GUIDE)
    warden, guide = enter(*WARDEN), enter(*GUIDE)
    assert [r["id"] for r in warden("get", "recordings/").json()] == [recording["id"]]
    assert guide("get", "recordings/").json() == []
    # What is made while accounts are off is nobody's until it is handed over.
    settings.ACCOUNTS = False
    made = api("post", "recipes/", json.dumps({"name": "Alone", "steps": STEPS})).json()
    settings.ACCOUNTS = True
    assert guide("get", f"recipes/{made['id']}/").status_code == 404
    # Of two with one name, the account keeps its own.
    guide.send("patch", "preferences/", run_at_once=True)
    settings.ACCOUNTS = False
    api("patch", "preferences/", json.dumps({"run_at_once": False}))
    settings.ACCOUNTS = True
    assert services.hand_over(services.account_named("GUIDE")) == services.HandedOver(1, 1)
    assert guide("get", f"recipes/{made['id']}/").status_code == 200
    assert guide("get", "preferences/").json()["run_at_once"]


def test_the_way_in_and_out(enter, warden):
    assert warden("get", "account/").json() == {"accounts": True, "name": "warden"}
    before = warden.client.cookies["sessionid"].value
    other = enter("Warden", WARDEN[1])  # capitals do not matter
    assert other("get", "recordings/").status_code == 200
    assert other.client.cookies["sessionid"].value != before
    cookie = other.client.cookies["sessionid"]
    assert (cookie["httponly"], cookie["samesite"]) == (True, "Strict")
    assert other.send("post", "account/sign-out/").json()["name"] is None
    assert other("get", "recordings/").status_code == 401
    assert warden("get", "recordings/").status_code == 200
    services.set_open(User.objects.get(), False)
    assert warden("get", "recordings/").status_code == 401


@pytest.mark.parametrize(
    ("name", "password", "words"),
    [
        ("warden", "tern-and-knot-8", "do not go together"),
        ("nobody", WARDEN[1], "do not go together"),
        ("guide", GUIDE[1], "the account is closed"),
        ("", WARDEN[1], "name"),
        ("warden", "", "password"),
    ],
)
def test_who_does_not_get_in(warden, guide, enter, name, password, words):
    services.set_open(services.account_named("guide"), False)
    answer = enter().send("post", "account/sign-in/", name=name, password=password)
    assert answer.status_code == 400
    assert words in answer.json()["error"]["message"]


def test_passwords_cannot_be_tried_without_end(warden, enter):
    thief = enter()
    answers = [
        thief.send("post", "account/sign-in/", name=f" Warden{' ' * n}", password="x")
        for n in range(8)
    ]
    assert [a.status_code for a in answers] == [400] * 5 + [429] * 3
    assert "Too many tries. Wait" in answers[-1].json()["error"]["message"]
    # Somebody else is not kept out by it.
    services.add_account(*GUIDE)
    assert enter(*GUIDE)("get", "recordings/").status_code == 200


def test_a_page_from_elsewhere_cannot_sign_in_or_change_a_password(warden, enter):
    warden.token = "0" * 64
    for method, path, body in (
        ("post", "account/sign-in/", {"name": WARDEN[0], "password": WARDEN[1]}),
        ("put", "account/password/", {"old": WARDEN[1], "new": "sanderling-55"}),
    ):
        assert warden.send(method, path, **body).json()["error"]["code"] == "refused"


def test_a_password_is_changed_and_other_browsers_are_signed_out(warden, enter):
    elsewhere = enter(*WARDEN)
    change = {"old": WARDEN[1], "new": "sanderling-55"}
    wrong = warden.send("put", "account/password/", old="guess", new="sanderling-55").json()
    assert (wrong["error"]["path"], wrong["error"]["message"][:3]) == ("old", "old")
    weak = warden.send("put", "account/password/", old=WARDEN[1], new="12345678").json()
    assert weak["error"]["path"] == "new"
    assert "too common" in weak["error"]["message"]
    assert warden.send("put", "account/password/", **change).status_code == 204
    assert warden("get", "recordings/").status_code == 200
    assert elsewhere("get", "recordings/").status_code == 401
    enter("warden", "sanderling-55")


@pytest.mark.parametrize(
    ("name", "password", "words"),
    [
        ("  ", GUIDE[1], "must have 1 to 150 characters"),
        ("g" * 151, GUIDE[1], "must have 1 to 150 characters"),
        ("a\nb", GUIDE[1], "must have 1 to 150 characters"),
        ("WARDEN", GUIDE[1], "is taken by another account"),
        ("guide", "short", "too short"),
        ("guide", "saltmarsh" * 60, None),
        ("saltmarsh", "saltmarsh1", "too similar"),
    ],
)
def test_what_an_account_can_be(warden, name, password, words):
    if words is None:
        assert services.add_account(name, password).check_password(password)
    else:
        with pytest.raises(BadInput, match=words):
            services.add_account(name, password)
        assert User.objects.count() == 1


def test_one_person_needs_no_account(api, recording):
    assert api("get", "account/").json() == {"accounts": False, "name": None}
    assert api("get", "recordings/").status_code == 200
    assert "sessionid" not in api.client.cookies
    change = json.dumps({"old": WARDEN[1], "new": GUIDE[1]})
    answer = api("put", "account/password/", change)
    assert (answer.status_code, "Nobody is signed in" in answer.content.decode()) == (400, True)
    assert api("post", "account/sign-out/", "{}").json() == {"accounts": False, "name": None}
    kind = apps.get_model("recipes", "Recipe")
    with pytest.raises(IntegrityError), transaction.atomic():
        kind.objects.bulk_create([kind(name="Twice"), kind(name="Twice")])


def models_of_ours():
    """All but what belongs to nobody: tries of passwords are counted before anybody is in."""
    ours = [m for m in apps.get_models() if m.__module__.startswith("zesty_server.")]
    return [m for m in ours if m is not SignInTries]


@pytest.mark.parametrize("model", models_of_ours(), ids=lambda m: m.__name__)
def test_every_kind_of_row_knows_its_owner(db, model):
    assert isinstance(model._default_manager, OwnedManager)
    first, *_ = model.owned_by.split("__")
    field = model._meta.get_field(first)
    assert issubclass(model, Owned) == (first == "owner")
    assert field.is_relation
    assert first == "owner" or not field.null
    with seen_by(7):
        assert "owner_id" in str(model._default_manager.all().query)
        assert not model._default_manager.exists()


def views_of(patterns):
    for pattern in patterns:
        if isinstance(pattern, URLResolver):
            yield from views_of(pattern.url_patterns)
        elif view := getattr(pattern.callback, "cls", None):
            yield view


def test_no_view_and_no_field_looked_for_its_rows_when_it_was_made():
    """What a class holds was asked for by nobody, so it would be everybody's."""
    views = list(views_of(get_resolver().url_patterns))
    assert len(views) > 80
    for view in views:
        queryset = getattr(view, "queryset", None)
        assert queryset is None or queryset.query.is_empty(), view
    for serializer in all_below(serializers.Serializer):
        if serializer.__module__.startswith("zesty_server."):
            for name, field in serializer._declared_fields.items():
                inner = getattr(field, "child_relation", field)
                related = isinstance(inner, serializers.RelatedField) and not inner.read_only
                assert not related or isinstance(inner, OneOf), (serializer, name)


def all_below(cls):
    for below in cls.__subclasses__():
        yield below
        yield from all_below(below)


def test_background_work_sees_all(warden, of_warden):
    assert Recording.objects.filter(pk=of_warden["recordings"]).exists()
    assert Recording.objects.get(pk=of_warden["recordings"]).owner.username == "warden"


def test_a_cover_is_its_accounts(warden, guide):
    picture = b"\x89PNG\r\n\x1a\n" + bytes(100)
    cover = warden("post", "covers/?name=tide.png", picture, "image/png").json()["cover"]
    recording = guide.upload(wav(noise(-30, 4))).json()["id"]
    guide.send("put", f"recordings/{recording}/chain/", steps=STEPS)
    order = {"recordings": [recording], "cover": cover}
    answer = guide.send("post", "batches/", **order)
    assert (answer.status_code, answer.json()["error"]["path"]) == (400, "cover")
    # Who brings the same picture in sees it.
    assert guide("post", "covers/?name=mine.png", picture, "image/png").json()["cover"] == cover
    assert guide.send("post", "batches/", **order).status_code == 201


def test_what_lies_open(enter, warden, settings):
    assert enter()("get", "openapi.json").status_code == 401
    assert warden("get", "openapi.json").status_code == 200
    space = warden("get", "space/").content.decode()
    assert str(settings.DATA) not in space
    assert "folder" not in space


def test_browsers_are_told_to_keep_to_https(client, db, settings):
    settings.SECURE_HSTS_SECONDS = 365 * 24 * 3600
    answer = client.get("/recordings", secure=True)
    assert "max-age=31536000" in answer.headers["Strict-Transport-Security"]
    assert "Strict-Transport-Security" not in client.get("/recordings").headers
