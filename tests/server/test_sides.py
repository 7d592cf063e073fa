"""Sides of a passage, tastings, the page for a client: same samples, clear words."""

from __future__ import annotations

import json
import re
import struct
from base64 import b64decode

import numpy as np
import pyloudnorm
import pytest
import soundfile

from tests.made_sound import RATE, noise, spoken
from tests.server.conftest import wav
from zesty_server.comparisons.sides import MOST_SIDES
from zesty_server.runs.models import Run

GAIN = [{"type": "gain", "params": {"gain_db": -6}}]
CHAIN = [{"type": "normalize", "params": {"target_db": -3, "remove_dc": False}}, *GAIN]


def parts_of(answer):
    data, parts = b"".join(answer.streaming_content), []
    while data:
        (size,) = struct.unpack_from("<I", data)
        parts.append(data[4 : 4 + size])
        data = data[4 + size :]
    return parts


def sides(api, recording, *wanted, start_s=1.0, end_s=4.0):
    body = {"start_s": start_s, "end_s": end_s, "sides": wanted}
    answer = api("post", f"recordings/{recording['id']}/sides/", json.dumps(body))
    assert answer.status_code == 200, answer.content
    head, *rest = parts_of(answer)
    told = [json.loads(part) for part in rest[::2]]
    sounds = [np.frombuffer(part, "<f4") for part in rest[1::2]]
    return json.loads(head), told, sounds


@pytest.fixture
def run(api, recording):
    api("put", f"recordings/{recording['id']}/chain/", json.dumps({"steps": CHAIN}))
    made = api("post", "runs/", json.dumps({"recording": recording["id"]})).json()
    return api("get", f"runs/{made['id']}/").json()


def test_taps_results_and_recipes_share_their_samples(api, recording, run):
    head, told, sounds = sides(
        api,
        recording,
        {"kind": "before"},
        {"kind": "chain", "steps": CHAIN, "upto": 1},
        {"kind": "chain", "steps": CHAIN},
        {"kind": "run", "of": run["id"]},
    )
    before, tap, whole, result = sounds
    assert head["count"] == 4
    assert len(before) == 3 * RATE
    # One gain, then another: no offset, no delay.
    factor = np.dot(tap, before) / np.dot(before, before)
    assert np.abs(tap - factor * before).max() < 1e-5
    assert np.abs(whole - 10 ** (-6 / 20) * tap).max() < 1e-6
    assert np.abs(whole - result).max() < 2e-7
    assert told[1]["measures"]["sample_peak_dbfs"] <= -2.9
    assert any("LU louder" in words for words in told[1]["differences"])
    # The gain that makes them equally loud, by a general-purpose library.
    meter = pyloudnorm.Meter(RATE)
    apart = meter.integrated_loudness(tap) - meter.integrated_loudness(before)
    ours = told[1]["measures"]["integrated_lufs"] - told[0]["measures"]["integrated_lufs"]
    assert ours == pytest.approx(apart, abs=0.05)


def test_another_recording_of_another_rate_and_length_is_the_second_side(api, recording):
    other = api.upload(wav(spoken(2.5, rate=44_100), 44_100), "Short.wav").json()["id"]
    _, told, sounds = sides(
        api, recording, {"kind": "before"}, {"kind": "recording", "of": other, "start_s": 0.5}
    )
    assert told[1]["note"] == "only 2.0 s of it are there"
    assert len(sounds[1]) == pytest.approx(2 * RATE, abs=2)


def test_what_cannot_be_had_is_told_and_keeps_nothing_else_away(api, recording, run):
    Run.objects.get(pk=run["id"]).result_path.unlink()
    other = api.upload(wav(noise(-40, 1.0)), "Tiny.wav").json()["id"]
    _, told, sounds = sides(
        api,
        recording,
        {"kind": "run", "of": run["id"]},
        {"kind": "recording", "of": other, "start_s": 5},
        {"kind": "chain", "steps": [{"type": "wobble"}]},
        {"kind": "before"},
    )
    words = [one.get("error") for one in told]
    assert "not there any more" in words[0]
    assert "lies outside of it: it is 1.0 s long" in words[1]
    assert "wobble" in words[2]
    assert words[3] is None
    assert [len(s) for s in sounds] == [0, 0, 0, 3 * RATE]


def test_a_result_of_other_cuts_is_refused_in_words(api, recording, run):
    cuts = {"cuts": [{"start_s": 0, "end_s": 0.5}]}
    api("put", f"recordings/{recording['id']}/edits/", json.dumps(cuts))
    _, told, _ = sides(api, recording, {"kind": "run", "of": run["id"]})
    assert "other cuts" in told[0]["error"]


@pytest.mark.parametrize(
    ("body", "path"),
    [
        ({"start_s": 0, "end_s": 99, "sides": [{"kind": "before"}]}, None),
        ({"start_s": 0, "end_s": 0.2, "sides": [{"kind": "before"}]}, "end_s"),
        ({"start_s": 0, "end_s": 3, "sides": []}, "sides"),
        ({"start_s": 0, "end_s": 3, "sides": [{"kind": "before"}] * (MOST_SIDES + 1)}, "sides"),
        ({"start_s": 0, "end_s": 3, "sides": [{"kind": "sideways"}]}, None),
    ],
)
def test_what_does_not_fit_is_refused(api, recording, body, path):
    answer = api("post", f"recordings/{recording['id']}/sides/", json.dumps(body))
    assert answer.status_code == 400
    assert path is None or answer.json()["error"]["path"] == path


def test_a_silent_passage_has_no_loudness_and_still_plays(api):
    quiet = np.concatenate([spoken(2), np.zeros((1, 4 * RATE), np.float32)], axis=1)
    made = api.upload(wav(quiet), "Half.wav").json()
    _, told, sounds = sides(api, made, {"kind": "before"}, start_s=3.0, end_s=5.0)
    assert told[0]["measures"]["integrated_lufs"] is None
    assert told[0]["time_series"]["integrated_lufs"] is None
    assert len(sounds[0]) == 2 * RATE


def test_the_course_of_a_steady_tone_is_level(api):
    """1 kHz at -20 dBFS peak in one channel reads -23.0 LUFS (ITU-R BS.1770-5)."""
    tone = 0.1 * np.sin(2 * np.pi * 1000 * np.arange(6 * RATE) / RATE)
    made = api.upload(wav(tone[None].astype(np.float32)), "Tone.wav").json()
    time_series = api("get", f"recordings/{made['id']}/time-series/?points=60").json()
    momentary = [v for v in time_series["momentary_lufs"] if v is not None]
    short_term = [v for v in time_series["short_term_lufs"] if v is not None]
    assert set(momentary) <= {-23.1, -23.0, -22.9}
    assert len(short_term) == pytest.approx(30, abs=2)
    assert time_series["levels"][90 - 23 - 1 : 90 - 23 + 1] == pytest.approx([0.5, 0.5], abs=0.51)
    peak = time_series["freqs_hz"][int(np.argmax(time_series["spectrum_dbfs"]))]
    assert peak == pytest.approx(1000, rel=0.05)
    part = api("get", f"recordings/{made['id']}/time-series/?start_s=1&end_s=2").json()
    assert (part["start_s"], part["end_s"]) == (1.0, 2.0)


def test_a_tasting_is_kept_in_its_order(api, recording):
    entries = [
        {"label": "Calm", "steps": CHAIN, "note": "warm"},
        {"label": "Own chain", "steps": GAIN},
    ]
    body = {"recording": recording["id"], "start_s": 1, "end_s": 4, "blind": True}
    kept = api("post", "tastings/", json.dumps(body | {"entries": entries}))
    assert kept.status_code == 201, kept.content
    (found,) = api("get", f"tastings/?recording={recording['id']}").json()
    assert [e["label"] for e in found["entries"]] == ["Calm", "Own chain"]
    assert found["entries"][0]["note"] == "warm"
    few = api("post", "tastings/", json.dumps(body | {"entries": entries[:1]}))
    assert few.json()["error"]["path"] == "entries"


def test_the_page_for_a_client_holds_both_sounds_and_loads_nothing(api, recording, run, tmp_path):
    answer = api("get", f"runs/{run['id']}/client-page/")
    text = answer.content.decode()
    assert "Morning tide, before and after.html" in answer["Content-Disposition"]
    assert not re.search(r'(src|href)="(?!data:)', text)
    assert "http" not in text
    sounds = []
    for name in ("before", "after"):
        data = re.search(rf'id="sound-{name}">([^<]+)<', text).group(1)
        path = tmp_path / f"{name}.mp3"
        path.write_bytes(b64decode(data))
        sounds.append(soundfile.read(path)[0])
    length = min(map(len, sounds))
    before, after = (s[:length] for s in sounds)
    shifts = range(-5, 6)
    alike = [np.dot(np.roll(after, -shift), before) for shift in shifts]
    assert shifts[int(np.argmax(alike))] == 0
    assert "Loudness" in text
    assert api("get", "runs/00000000-0000-0000-0000-000000000000/client-page/").status_code == 404


@pytest.mark.parametrize("look", ["time-series", "spectrogram", "figures", "overview"])
@pytest.mark.parametrize("side", ["before", "after"])
def test_both_sides_of_a_stereo_run_are_looked_at(api, look, side):
    """Before and after of a stereo recording lie in one file of four channels."""
    sound = np.concatenate([spoken(4), 0.5 * spoken(4)])
    made = api.upload(wav(sound), "Two sides.wav").json()
    api("put", f"recordings/{made['id']}/chain/", json.dumps({"steps": GAIN}))
    run = api("post", "runs/", json.dumps({"recording": made["id"]})).json()
    span = "start_s=1&end_s=1.5"
    answer = api("get", f"runs/{run['id']}/{look}/?{span}&side={side}")
    assert answer.status_code == 200, answer.content
    if look == "figures":
        peak = np.abs(sound[:, RATE : round(1.5 * RATE)]).max()
        expected = 20 * np.log10(peak) - (6 if side == "after" else 0)
        assert answer.json()["sample_peak_dbfs"] == pytest.approx(expected, abs=0.02)


def test_the_page_for_a_client_holds_both_channels_of_a_stereo_run(api, tmp_path):
    made = api.upload(wav(np.concatenate([spoken(3), 0.5 * spoken(3)])), "Two sides.wav").json()
    api("put", f"recordings/{made['id']}/chain/", json.dumps({"steps": GAIN}))
    run = api("post", "runs/", json.dumps({"recording": made["id"]})).json()
    answer = api("get", f"runs/{run['id']}/client-page/")
    assert answer.status_code == 200
    path = tmp_path / "before.mp3"
    held = re.search(r'id="sound-before">([^<]+)<', answer.content.decode()).group(1)
    path.write_bytes(b64decode(held))
    assert soundfile.info(path).channels == 2


@pytest.mark.parametrize(
    ("query", "told", "lasts_s"),
    [
        ("", "of sound", None),
        ("?start_s=1&end_s=2.5", "0:01.0 to 0:02.5 of", 1.5),
        ("?start_s=1", "0:01.0 to", None),
        ("?start_s=2&end_s=1", None, None),
        ("?end_s=999", None, None),
        ("?start_s=-1", None, None),
    ],
)
def test_the_page_for_a_client_holds_the_stretch_that_is_asked_for(
    api, run, tmp_path, query, told, lasts_s
):
    answer = api("get", f"runs/{run['id']}/client-page/{query}")
    if told is None:
        assert answer.status_code == 400
        return
    text = answer.content.decode()
    assert told in text
    assert ("figures are of the whole" in text) == bool(query)
    if lasts_s:
        path = tmp_path / "after.mp3"
        path.write_bytes(b64decode(re.search(r'id="sound-after">([^<]+)<', text).group(1)))
        assert soundfile.info(path).duration == pytest.approx(lasts_s, abs=0.06)


def test_takes_and_results_are_tasted_beside_chains(api, recording):
    """What has no steps to set is kept by its name and note."""
    entries = [
        {"label": "Take: Evening tide", "steps": None, "note": "calmer"},
        {"label": "Own chain", "steps": GAIN},
    ]
    body = {"recording": recording["id"], "start_s": 0, "end_s": 2, "blind": True}
    answer = api("post", "tastings/", json.dumps({**body, "entries": entries}))
    assert answer.status_code == 201, answer.content
    found = api("get", f"tastings/?recording={recording['id']}").json()[0]
    best = found["entries"][0]
    assert (best["label"], best["steps"], best["note"]) == ("Take: Evening tide", None, "calmer")


def test_a_client_hears_several_versions_under_the_names_given(api, recording, another, tmp_path):
    take = api.upload(another(8), "Evening tide.wav").json()
    sides = [
        {"kind": "before"},
        {"kind": "chain", "steps": GAIN},
        {"kind": "recording", "of": take["id"], "start_s": 1},
    ]
    body = {"start_s": 1, "end_s": 3, "sides": sides, "names": ["Raw", "Softer <b>", "Take two"]}
    path = f"recordings/{recording['id']}/client-page/"
    answer = api("post", path, json.dumps(body))
    assert answer.status_code == 200, answer.content
    assert "Morning tide, 3 versions.html" in answer["Content-Disposition"]
    text = answer.content.decode()
    for told in ("Raw", "Softer &lt;b&gt;", "Take two", "Save notes as a file"):
        assert told in text
    assert "http" not in text
    levels = []
    for key in ("v1", "v2", "v3"):
        data = re.search(rf'id="sound-{key}">([^<]+)<', text).group(1)
        sound = tmp_path / f"{key}.mp3"
        sound.write_bytes(b64decode(data))
        levels.append(10 * np.log10(np.mean(soundfile.read(sound)[0] ** 2)))
        assert soundfile.info(sound).duration == pytest.approx(2, abs=0.1)
    assert levels[1] - levels[0] == pytest.approx(-6, abs=0.1)


@pytest.mark.parametrize(
    ("change", "path"),
    [
        ({"names": ["one"]}, "names"),
        ({"sides": [], "names": []}, "sides"),
        ({"end_s": 0.1}, None),
        ({"sides": [{"kind": "recording"}] * 2}, None),
    ],
)
def test_versions_that_do_not_fit(api, recording, change, path):
    body = {"start_s": 0, "end_s": 2, "sides": [{"kind": "before"}] * 2, "names": ["a", "b"]}
    answer = api(
        "post", f"recordings/{recording['id']}/client-page/", json.dumps({**body, **change})
    )
    assert answer.status_code == 400
    assert path is None or answer.json()["error"]["path"] == path
