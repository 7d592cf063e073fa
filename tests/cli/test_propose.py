"""``zesty propose``: a chain made for one file, printed, kept and tried."""

from __future__ import annotations

import json

import pytest

from tests.made_sound import RATE, noise, spoken, write
from zesty_cli.main import BAD_USE, DONE, main
from zesty_core.chain.recipe import read_recipe


@pytest.fixture
def noisy(tmp_path):
    return write(tmp_path / "noisy.wav", spoken(8, RATE) + noise(-52, 8, RATE))


def test_every_step_says_why(noisy, capsys):
    assert main(["propose", str(noisy), "--target", "Podcast, mono"]) == DONE
    lines = capsys.readouterr().out.splitlines()
    assert lines[0].startswith("noisy.wav: ")
    assert any(line.startswith("2. Noise reduction: The room lies ") for line in lines)
    assert "Podcast, mono asks for it" in lines[-1]


def test_the_chain_is_tried_and_kept_as_a_recipe(noisy, tmp_path, capsys):
    out = tmp_path / "made.zesty.json"
    order = ["propose", str(noisy), "--check", "--json", "--recipe", str(out)]
    assert main(order) == DONE
    answer = json.loads(capsys.readouterr().out)
    assert [step["step"]["type"] for step in answer["steps"]] == [
        entry.step.type for entry in read_recipe(out).chain
    ]
    assert isinstance(answer["corrections"], list)
    done = tmp_path / "done.wav"
    assert main(["process", str(noisy), str(done), "--recipe", str(out), "--quiet"]) == DONE
    assert main(order) == BAD_USE
    assert "exists already" in capsys.readouterr().err


def test_a_target_that_is_not_there_is_refused(noisy, capsys):
    assert main(["propose", str(noisy), "--target", "Nowhere"]) == BAD_USE
    assert "there is no such target" in capsys.readouterr().err


def test_silence_gets_no_chain(tmp_path, capsys):
    take = write(tmp_path / "hiss.wav", noise(-60, 3))
    assert main(["propose", str(take), "--check"]) == DONE
    assert "0 steps proposed" in capsys.readouterr().out
