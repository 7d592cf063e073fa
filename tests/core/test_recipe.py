"""The recipe document: what is taken, what is refused and with which path."""

from __future__ import annotations

import json

import pytest

from zesty_core.chain.recipe import (
    chain_as_json,
    chain_from_json,
    parse_recipe,
    read_recipe,
    write_recipe,
)
from zesty_core.foundation.errors import BadInput, BadRecipe, BadSetting
from zesty_core.steps.registry import STEP_TYPES


def document(**changes):
    return {"format": "zesty-recipe", "version": 2, "name": "A", "steps": []} | changes


def step(kind, **params):
    return document(steps=[{"type": "gain"}, {"type": kind, "params": params}])


REFUSED = [
    (document(format="other"), "format"),
    (document(version=3), "version"),
    (document(version=True), "version"),
    (document(name="  "), "name"),
    (document(name=7), "name"),
    (document(name="A\0"), "name"),
    (document(name="A\ud800"), "name"),
    (document(name="A\nB"), "name"),
    (document(description="A\0"), "description"),
    (document(steps={}), "steps"),
    (document(extra=1), "extra"),
    (document(steps=[1]), "steps[0]"),
    (document(steps=[{"type": "gain"}] * 65), "steps"),
    (document(steps=[{"type": "gain", "enabled": 1}]), "steps[0].enabled"),
    (document(steps=[{"type": "gain", "parms": {}}]), "steps[0].parms"),
    (step("reverse"), "steps[1].type"),
    (step("compressor", ratio=0), "steps[1].params.ratio"),
    (step("compressor", ratio="2"), "steps[1].params.ratio"),
    (step("compressor", ratio=True), "steps[1].params.ratio"),
    (step("compressor", makeup_db="much"), "steps[1].params.makeup_db"),
    (step("compressor", detector="ear"), "steps[1].params.detector"),
    (step("normalize", remove_dc=1), "steps[1].params.remove_dc"),
    (step("normalize", level=1), "steps[1].params.level"),
    (step("eq", bands={}), "steps[1].params.bands"),
    (step("eq", bands=[{}, {"q": 0}]), "steps[1].params.bands[1].q"),
    (step("eq", bands=[5]), "steps[1].params.bands[0]"),
    (step("eq", bands=[{"slope_db_oct": 13}]), "steps[1].params.bands[0].slope_db_oct"),
    (step("noise_reduction", passes=True), "steps[1].params.passes"),
    (
        step("noise_reduction", depth_curve=[{"depth_db": 99}]),
        "steps[1].params.depth_curve[0].depth_db",
    ),
]


@pytest.mark.parametrize(("data", "path"), REFUSED)
def test_faults_carry_their_path(data, path):
    with pytest.raises(BadSetting) as fault:
        parse_recipe(json.dumps(data), "x")
    assert fault.value.path == path
    assert path in fault.value.message


@pytest.mark.parametrize("text", ["", "{", "[]", "null", '{"a": NaN}', "\xff", "[" * 100_000])
def test_what_is_no_recipe(text):
    with pytest.raises(BadInput):
        parse_recipe(text, "x.json")


def test_missing_file(tmp_path):
    with pytest.raises(BadRecipe, match="no such recipe"):
        read_recipe(tmp_path / "none.json")


def test_sentences_write_minus_signs_and_leave_hyphens_alone():
    [entry] = chain_from_json([{"type": "limiter", "params": {"ceiling_dbtp": -1.5}}])
    assert "under \N{MINUS SIGN}1.5 dBTP" in entry.step.sentence()
    [entry] = chain_from_json([{"type": "loudness", "params": {"measure": "rms", "target": -20}}])
    assert "\N{MINUS SIGN}20" in entry.step.sentence()


@pytest.mark.parametrize("kind", STEP_TYPES)
def test_every_step_has_defaults_a_description_and_a_sentence(kind):
    [entry] = chain_from_json([{"type": kind}])
    assert chain_from_json(chain_as_json((entry,))) == (entry,)
    assert entry.step.sentence().endswith(".")
    assert " -" not in entry.step.sentence()
    for setting in STEP_TYPES[kind].describe():
        assert setting["label"]
        assert setting["help"].endswith(".")
        if setting["kind"] == "number":
            low, high = setting["low"], setting["high"]
            assert low < high
            usual_low, usual_high = setting["usual"] or (low, high)
            assert low <= usual_low < usual_high <= high


def test_a_document_survives_writing_and_reading():
    text = write_recipe(parse_recipe(json.dumps(step("eq", bands=[{"freq_hz": 80}])), "x"))
    assert write_recipe(parse_recipe(text, "x")) == text


def test_the_example_of_the_contract():
    [entry] = chain_from_json(
        [{"type": "compressor", "enabled": True, "params": {"threshold_db": -18, "ratio": 2}}]
    )
    assert entry.step.as_params()["threshold_db"] == -18.0
