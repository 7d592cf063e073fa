"""Streams, several files, names instead of documents."""

from __future__ import annotations

import io
import json
import subprocess
import sys

import pytest
import soundfile

from tests.made_sound import STARTER, noise, sine, spoken, write
from zesty_cli.main import BAD_USE, DONE, main

ZESTY = [sys.executable, "-m", "zesty_cli.main"]


@pytest.fixture
def take(tmp_path):
    return write(tmp_path / "take.wav", spoken(4) + noise(-60, 4))


def test_sound_goes_through_a_pipe(take):
    """As ``cat take.wav | zesty process - - --recipe R | zesty measure - --json``."""
    command = [*ZESTY, "process", "-", "-", "--recipe", str(STARTER)]
    made = subprocess.run(command, input=take.read_bytes(), capture_output=True, check=True)
    sound, rate = soundfile.read(io.BytesIO(made.stdout))
    assert len(sound) / rate == pytest.approx(4)
    told = subprocess.run(
        [*ZESTY, "measure", "-", "--json"], input=made.stdout, capture_output=True, check=True
    )
    measures = json.loads(told.stdout)
    assert measures["file"] == "standard input"
    assert measures["duration_s"] == pytest.approx(4)


@pytest.mark.parametrize(("data", "words"), [(b"", "is empty"), (b"no sound", "standard input")])
def test_a_pipe_without_sound_is_refused(data, words):
    made = subprocess.run([*ZESTY, "measure", "-"], input=data, capture_output=True, check=False)
    assert made.returncode != DONE
    assert words in made.stderr.decode()
    assert "Traceback" not in made.stderr.decode()


def test_several_files_are_measured_in_turn(tmp_path, capsys):
    paths = [write(tmp_path / f"{db}.wav", sine(db, 2)) for db in (-6, -12)]
    assert main(["measure", *map(str, paths), "--json"]) == DONE
    told = json.loads(capsys.readouterr().out)
    assert [round(one["sample_peak_dbfs"]) for one in told] == [-6, -12]
    assert main(["measure", *map(str, paths)]) == DONE
    assert capsys.readouterr().out.count("true peak") == 2


def test_recipes_go_by_name(take, tmp_path, capsys):
    assert main(["recipe", "list"]) == DONE
    assert "Kitchen-table podcast: " in capsys.readouterr().out
    assert main(["recipe", "show", "Kitchen-table podcast"]) == DONE
    assert "1. " in capsys.readouterr().out
    out = tmp_path / "done.wav"
    command = ["process", str(take), str(out), "--recipe", "Voice for video", "--quiet"]
    assert main(command) == DONE
    said = capsys.readouterr()
    assert (said.out, said.err) == ("", "")
    assert out.exists()


@pytest.mark.parametrize(
    ("command", "words"),
    [
        (["recipe", "show", "Kitchen"], "Kitchen-table podcast"),
        (["recipe", "check"], "name a recipe"),
        (["serve", "--workers", "0"], "at least 1"),
    ],
)
def test_what_is_not_there_is_named(command, words, capsys):
    assert main(command) == BAD_USE
    assert words in capsys.readouterr().err
