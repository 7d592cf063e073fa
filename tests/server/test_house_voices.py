"""House voices over HTTP: made of finished recordings, compared with others, closed by a step."""

from __future__ import annotations

import json

import pytest

from tests.core.test_house_voice import MICROPHONES, in_room, through
from tests.interview import lines
from tests.made_sound import noise
from tests.server.conftest import wav


@pytest.fixture
def takes(api):
    """The same line through two microphones."""
    voice = lines("letters-warden")[0][None]
    return [
        api.upload(wav(in_room(sound)), name).json()
        for sound, name in (
            (voice, "Shed.wav"),
            (through(voice, MICROPHONES["boxy"]), "Chapel.wav"),
        )
    ]


def made(api, name, *recordings):
    body = {"name": name, "recordings": [r["id"] for r in recordings]}
    return api("post", "house-voices/", json.dumps(body))


def distance(api, house, recording):
    return api("get", f"house-voices/{house['id']}/distance/?recording={recording['id']}").json()


def test_the_gap_to_a_house_voice_is_shown_and_closed(api, takes):
    shed, chapel = takes
    house = made(api, "Low Water Letters", shed).json()
    assert house["made_of"] == ["Shed"]
    assert distance(api, house, shed)["recorded"]["tone_db"] == pytest.approx(0, abs=0.05)
    apart = distance(api, house, chapel)
    assert apart["recorded"]["tone_db"] > 2
    assert apart["finished"] is None
    chain = {"steps": [apart["step"]]}
    assert api("put", f"recordings/{chapel['id']}/chain/", json.dumps(chain)).status_code == 200
    run = api("post", "runs/", json.dumps({"recording": chapel["id"]})).json()
    report = api("get", f"runs/{run['id']}/").json()["points"][0]["report"]
    assert 1 <= len(report["bands"]) <= 6
    assert distance(api, house, chapel)["finished"]["tone_db"] < 1


def test_it_is_kept_renamed_and_deleted(api, takes):
    house = made(api, "Letters", *takes).json()
    assert house["made_of"] == ["Shed", "Chapel"]
    here = f"house-voices/{house['id']}/"
    assert api("patch", here, json.dumps({"name": "Low Water"})).json()["name"] == "Low Water"
    assert [row["name"] for row in api("get", "house-voices/").json()] == ["Low Water"]
    other = made(api, "Letters", takes[0]).json()
    taken = api("patch", f"house-voices/{other['id']}/", json.dumps({"name": "Low Water"}))
    assert taken.status_code == 400
    assert api("delete", here).status_code == 204
    assert [row["id"] for row in api("get", "house-voices/").json()] == [other["id"]]


@pytest.mark.parametrize(
    ("body", "words"),
    [
        ({"name": "", "recordings": ["shed"]}, "name"),
        ({"name": "Nobody", "recordings": []}, "1 to 200"),
        ({"name": "Hiss", "recordings": ["hiss"]}, "at least one measured recording with a voice"),
        ({"name": "Taken", "recordings": ["shed"]}, "of this name already"),
        ({"name": "Gone", "recordings": ["00000000-0000-4000-8000-000000000000"]}, "recordings"),
    ],
)
def test_what_makes_no_house_voice_is_refused(api, takes, body, words):
    made(api, "Taken", takes[0])
    hiss = api.upload(wav(noise(-60, 3)), "Hiss.wav").json()
    ids = {"shed": takes[0]["id"], "hiss": hiss["id"]}
    body = body | {"recordings": [ids.get(r, r) for r in body["recordings"]]}
    answer = api("post", "house-voices/", json.dumps(body))
    assert answer.status_code == 400
    assert words in json.dumps(answer.json())
    assert len(api("get", "house-voices/").json()) == 1
