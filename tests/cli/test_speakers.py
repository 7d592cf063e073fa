"""``zesty speakers``, and what ``zesty process`` makes of its answer."""

from __future__ import annotations

import json

import pytest

from tests.interview import interview
from tests.made_sound import write
from zesty_cli.main import BAD_USE, DONE, main


@pytest.fixture
def talk(tmp_path):
    sound, _ = interview(["letters-warden", "counting-lesson"], [0.0, -10.0], turns=4)
    return write(tmp_path / "talk.wav", sound)


def test_turns_are_printed_in_order(talk, capsys):
    assert main(["speakers", str(talk), "--count", "2"]) == DONE
    first, *lines = capsys.readouterr().out.splitlines()
    assert first == "talk.wav: 2 speakers"
    assert lines[0].startswith("Speaker 1: ")
    assert [line.split()[-1] for line in lines[2:]] == ["1", "2", "1", "2"]


def test_turns_that_were_corrected_are_used(talk, tmp_path, capsys):
    assert main(["speakers", str(talk), "--count", "2", "--json"]) == DONE
    document = json.loads(capsys.readouterr().out) | {"names": ["Warden", "Teacher"]}
    turns, recipe = tmp_path / "turns.json", tmp_path / "level.zesty.json"
    turns.write_text(json.dumps(document))
    step = {"type": "leveller", "params": {"speakers": "find"}}
    recipe.write_text(
        json.dumps({"format": "zesty-recipe", "version": 2, "name": "Level", "steps": [step]})
    )
    order = ["process", str(talk), str(tmp_path / "out.wav"), "--recipe", str(recipe), "--json"]
    assert main([*order, "--speakers", str(turns)]) == DONE
    report = json.loads(capsys.readouterr().out)["steps"][0]["report"]
    assert [row["name"] for row in report["speaker_levels"]] == ["Warden", "Teacher"]
    turns.write_text("{")
    assert main([*order, "--force", "--speakers", str(turns)]) == BAD_USE
    assert "cannot be read" in capsys.readouterr().err
