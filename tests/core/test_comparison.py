"""What changed between before and after, in words: true where planted, silent where nothing did."""

from __future__ import annotations

import json

import numpy as np
import pytest

from tests.made_sound import RATE, RECORDINGS, STARTER, noise, spoken
from zesty_core.audio.reader import AudioFile
from zesty_core.chain.recipe import chain_from_json, read_recipe
from zesty_core.chain.runner import run_chain
from zesty_core.compare.findings import differences_in_words
from zesty_core.foundation.signal import ArraySource

SOUND = np.pad(spoken(8), ((0, 0), (2 * RATE, RATE))) + noise(-50, 11)


def told(steps, sound=SOUND):
    result = run_chain(ArraySource(sound, RATE), chain_from_json(steps), lambda _: None)
    return differences_in_words(result.before.as_json(), result.after.as_json())


def shelf(type_, freq_hz, gain_db):
    band = {"type": type_, "freq_hz": freq_hz, "gain_db": gain_db, "q": 0.7}
    return {"type": "eq", "params": {"bands": [band]}}


@pytest.mark.parametrize(
    ("steps", "words"),
    [
        ([], []),
        ([{"type": "gain", "params": {"gain_db": 0.2}}], []),
        (
            [{"type": "gain", "params": {"gain_db": -6}}],
            ["6.0 LU softer", "highest peak at"],
        ),
        ([shelf("high_shelf", 3000, 12)], ["more treble (4 to 16 kHz)"]),
        ([shelf("low_shelf", 300, -12)], ["less bass (80 to 250 Hz)"]),
        ([{"type": "noise_reduction", "params": {"depth_db": 12}}], ["clearance 12 dB better"]),
    ],
)
def test_what_was_done_is_told_in_figures(steps, words):
    found = told(steps)
    assert len(found) >= len(words)
    for wanted in words:
        assert any(wanted in one for one in found), found
    if not words:
        assert found == []


def test_the_starter_on_a_demo_recording_is_told():
    file = AudioFile(RECORDINGS / "hide-guide-causeway.wav")
    result = run_chain(file, read_recipe(STARTER).chain, lambda _: None)
    found = differences_in_words(result.before.as_json(), result.after.as_json())
    assert found[0].endswith("LU louder")
    assert any(one.startswith("clearance") and one.endswith("better") for one in found)
    assert json.dumps(found)


def test_what_cannot_be_told_is_left_out():
    silence = told(
        [{"type": "gain", "params": {"gain_db": 3}}], np.zeros((1, 2 * RATE), np.float32)
    )
    assert silence == []
    assert differences_in_words({}, {}) == []
    hum = {"base_hz": 50}
    assert differences_in_words({"hum": hum}, {"hum": None}) == ["hum at 50 Hz no longer found"]
    assert differences_in_words({"hum": None}, {"hum": hum}) == ["hum at 50 Hz now stands out"]
