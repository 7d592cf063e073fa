"""``zesty mix``: a voice over music that dips, limited or set to a target, and what cannot be done."""

from __future__ import annotations

import json

import numpy as np
import pytest
import soundfile
from mutagen.mp3 import MP3

from tests.made_sound import RATE, level_db, noise, spoken, write
from zesty_cli.main import main


@pytest.fixture
def place(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    write(tmp_path / "voice.wav", 0.2 * spoken(6) + noise(-70, 6))
    write(tmp_path / "music.wav", noise(-30, 4, channels=2, seed=3))
    write(tmp_path / "silent.wav", np.zeros((1, 2 * RATE), np.float32))
    write(tmp_path / "short.wav", noise(-20, 0.5))
    loud = {"format": "zesty-target", "version": 1, "name": "Loud", "file": {}}
    bounds = {"integrated_lufs": {"low": -5, "high": -4}, "true_peak_dbtp": {"high": -20}}
    (tmp_path / "loud.json").write_text(json.dumps(loud | {"bounds": bounds}))
    return tmp_path


def mix(*arguments, out="mix.wav", bed="music.wav"):
    return main(["mix", "voice.wav", out, "--bed", bed, *arguments])


def test_the_bed_dips_while_the_voice_speaks(place, capsys):
    steady = ["--voice-start-s", "2", "--dip-db", "15", "--hold-ms", "5000", "--tail-s", "3"]
    assert mix(*steady, "--depth", "32f", "--json") == 0
    told = json.loads(capsys.readouterr().out)
    made, voice = (soundfile.read(name, always_2d=True)[0].T for name in ("mix.wav", "voice.wav"))
    assert made.shape == (2, 11 * RATE)
    bed = made[0].copy()
    bed[2 * RATE : 8 * RATE] -= voice[0]
    alone, under = bed[RATE // 2 : RATE], bed[4 * RATE : 6 * RATE]
    assert level_db(alone) - level_db(under) == pytest.approx(15.0, abs=0.3)
    assert told["bed"]["params"]["dip_db"] == 15.0
    assert told["voice_over_bed_db"]["typical"] > 15.0
    assert told["after"]["noise_floor_dbfs"] is None


def test_a_mix_meets_its_target(place, capsys):
    tagged = ["--tag", "title=Low water", "--target", "Podcast, stereo"]
    assert mix(*tagged, out="mix.mp3") == 0
    assert "missed" not in capsys.readouterr().out
    assert MP3("mix.mp3").info.channels == 2
    assert str(MP3("mix.mp3")["TIT2"]) == "Low water"
    assert main(["measure", "mix.mp3", "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["integrated_lufs"] == pytest.approx(-16, abs=0.5)


def test_what_a_target_asks_of_a_voice_alone_is_left_out_and_told(place, capsys):
    assert mix("--target", "Audiobook chapter") == 0
    assert "not asked of a mix: noise floor" in capsys.readouterr().err


def test_a_missed_target_is_told(place, capsys):
    assert mix("--target", "loud.json") == 3
    told = capsys.readouterr()
    assert "missed: loudness" in told.out
    assert "more than is sound" in told.err


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (["--dip-db", "50"], "dip_db: must be from 0 to 40"),
        (["--target", "None such"], "--target: must be a target document or one of"),
        (["OUT", "music.wav", "--force"], "cannot replace the recording itself"),
        (["OUT", "voice.wav"], "cannot replace the recording itself"),
        (["OUT", "loud.json"], "ending must be"),
        (["BED", "none.wav"], "no such file"),
        (["BED", "loud.json"], "no sound file"),
        (["BED", "silent.wav"], "is silent"),
        (["BED", "short.wav"], "must last 1 to 900 s"),
    ],
)
def test_what_cannot_be_done_is_told_in_one_line(place, capsys, arguments, said):
    named = {"OUT": "out", "BED": "bed"}
    change = {}
    if arguments[0] in named:
        change, arguments = {named[arguments[0]]: arguments[1]}, arguments[2:]
    before = sorted(place.iterdir())
    assert mix(*arguments, **change) == 2
    error = capsys.readouterr().err
    assert said in error
    assert error.count("\n") == 1
    assert sorted(place.iterdir()) == before


def test_nobody_speaks(place, capsys):
    assert main(["mix", "music.wav", "mix.wav", "--bed", "music.wav"]) == 2
    assert "no speech was found" in capsys.readouterr().err
