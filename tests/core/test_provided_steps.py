"""Steps that installed packages provide, and the example package in the docs."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import tomllib
import warnings
from importlib.metadata import EntryPoint

import numpy as np
import pytest
import soundfile

from tests.core.test_steps_as_a_whole import run
from tests.made_sound import RATE, ROOT, noise, write
from zesty_core.steps.gain import Gain
from zesty_core.steps.registry import GROUP, PROVIDED, STEP_TYPES, load_provided, provider_of

EXAMPLE = ROOT / "docs" / "example-step"
RECIPE = {
    "format": "zesty-recipe",
    "version": 1,
    "name": "Turned over",
    "steps": [{"type": "polarity", "params": {"sides": "left"}}],
}


class Nameless(Gain):
    type = "Not a name"


class Taken(Gain):
    pass


class Broken(Gain):
    type = "broken"

    def __init__(self):
        raise RuntimeError("no settings")


def point(name):
    return EntryPoint(name, f"{__name__}:{name}", GROUP)


@pytest.mark.parametrize(
    ("name", "words"),
    [
        ("Nameless", "small letters"),
        ("Taken", "'gain' is taken"),
        ("Broken", "no settings"),
        ("RECIPE", "not derived from Step"),
        ("Nowhere", "AttributeError"),
    ],
)
def test_what_cannot_serve_is_left_out_with_a_reason(name, words):
    with pytest.warns(UserWarning, match=words):
        assert load_provided([point(name)]) == {}


@pytest.fixture(scope="module")
def installed(tmp_path_factory):
    """The example as an installer lays it down: module, metadata, entry points."""
    folder = tmp_path_factory.mktemp("packages")
    project = tomllib.loads((EXAMPLE / "pyproject.toml").read_text())["project"]
    name, version = project["name"], project["version"]
    shutil.copy(EXAMPLE / "src" / "polarity_step.py", folder)
    info = folder / f"{name.replace('-', '_')}-{version}.dist-info"
    info.mkdir()
    (info / "METADATA").write_text(f"Metadata-Version: 2.1\nName: {name}\nVersion: {version}\n")
    points = project["entry-points"][GROUP].items()
    lines = [f"[{GROUP}]", *(f"{key} = {value}" for key, value in points)]
    (info / "entry_points.txt").write_text("\n".join(lines))
    return folder


def zesty(folder, *arguments, fails=False):
    """The command line with this folder of packages on its path."""
    made = subprocess.run(
        [sys.executable, "-m", "zesty_cli.main", *map(str, arguments)],
        env=os.environ | {"PYTHONPATH": str(folder)},
        cwd=ROOT / "src",
        check=False,
        capture_output=True,
        text=True,
    )
    assert (made.returncode != 0) == fails, made.stderr
    return made


def test_a_recipe_runs_a_provided_step_and_the_receipt_names_its_package(installed, tmp_path):
    recipe = tmp_path / "turned.zesty.json"
    recipe.write_text(json.dumps(RECIPE))
    take = write(tmp_path / "take.wav", noise(-20, 2, channels=2))
    zesty(installed, "batch", take, "--recipe", recipe, "--out", tmp_path / "done")
    receipt = json.loads((tmp_path / "done" / "take.wav.receipt.json").read_text())
    assert receipt["provided_steps"] == {
        "polarity": {"package": "polarity-step", "version": "1.2.0"}
    }
    assert "polarity-step" in (tmp_path / "done" / "take.wav.receipt.html").read_text()
    before, after = (soundfile.read(p)[0] for p in (take, tmp_path / "done" / "take.wav"))
    assert np.allclose(after, before * [-1, 1], atol=2e-7)


def test_a_recipe_that_names_a_missing_step_is_refused_by_name(tmp_path):
    recipe = tmp_path / "turned.zesty.json"
    recipe.write_text(json.dumps(RECIPE))
    made = zesty(tmp_path, "recipe", "check", recipe, fails=True)
    assert "polarity" in made.stderr


def test_the_example_keeps_the_contract(monkeypatch):
    monkeypatch.syspath_prepend(str(EXAMPLE / "src"))
    from polarity_step import Polarity

    sound = noise(-20, 1)
    out, _ = run(sound, Polarity(), RATE)
    assert np.array_equal(out, -sound)
    assert Polarity(sides="right").sentence() == "Turns the right side over."
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        found = load_provided([EntryPoint("polarity", "polarity_step:Polarity", GROUP)])
    assert [step.type for step in found] == ["polarity"]


def test_the_products_own_steps_have_no_provider():
    assert PROVIDED == {}
    assert all(provider_of(name) is None for name in STEP_TYPES)
