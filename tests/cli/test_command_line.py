"""The command line by its contract: results, exit codes, one clear line, nothing half-written."""

from __future__ import annotations

import json
import resource
import subprocess
import sys

import numpy as np
import pytest
import soundfile

from tests.made_sound import RATE, STARTER, level_db, noise, spoken, write
from zesty_cli.main import main

NEUTRAL = {"format": "zesty-recipe", "version": 1, "name": "Nothing", "steps": [{"type": "gain"}]}


@pytest.fixture
def take(tmp_path):
    voice = np.concatenate([np.zeros((1, 2 * RATE), np.float32), spoken(4)], axis=1)
    return write(tmp_path / "take.wav", voice + noise(-55, 6))


def recipe_file(tmp_path, **changes):
    path = tmp_path / "r.zesty.json"
    path.write_text(json.dumps(NEUTRAL | changes))
    return str(path)


def test_measure_prints_figures_and_json(take, capsys):
    assert main(["measure", str(take)]) == 0
    assert "voice level" in capsys.readouterr().out
    assert main(["measure", str(take), "--json", "--room-tone", "0.2:1.8"]) == 0
    data = json.loads(capsys.readouterr().out)
    assert data["noise_floor_source"] == "room tone"
    assert data["noise_floor_dbfs"] == pytest.approx(-55, abs=0.3)


def test_process_writes_the_file_and_a_receipt(take, tmp_path, capsys):
    out = tmp_path / "done.flac"
    assert main(["process", str(take), str(out), "--recipe", str(STARTER), "--json"]) == 0
    receipt = json.loads(capsys.readouterr().out)
    assert receipt["after"]["voice_level_dbfs"] == pytest.approx(-22.0, abs=0.2)
    assert receipt["room_tone"]["source"] == "found"
    assert len(receipt["steps"]) == 6
    assert main(["measure", str(out), "--json"]) == 0
    measured = json.loads(capsys.readouterr().out)
    assert measured["true_peak_dbtp"] == pytest.approx(receipt["after"]["true_peak_dbtp"], abs=0.02)


@pytest.mark.parametrize("subtype", ["PCM_16", "PCM_24", "PCM_32", "FLOAT"])
def test_a_neutral_recipe_returns_the_samples_bit_for_bit(tmp_path, subtype):
    source = write(tmp_path / "in.wav", noise(-12, 1, channels=2), subtype=subtype)
    out = tmp_path / "out.wav"
    assert main(["process", str(source), str(out), "--recipe", recipe_file(tmp_path)]) == 0
    kind = "float64" if subtype == "FLOAT" else "int32"
    a, b = (soundfile.read(p, dtype=kind)[0] for p in (source, out))
    assert np.array_equal(a, b)


def test_room_tone_from_another_file_and_cuts(take, tmp_path):
    tone = write(tmp_path / "room.wav", noise(-55, 2, seed=8))
    out = tmp_path / "o.wav"
    arguments = ["--recipe", recipe_file(tmp_path, steps=[{"type": "noise_reduction"}]), "--force"]
    more = ["--room-tone", str(tone), "--cut", "0:1", "--cut", "5:6"]
    assert main(["process", str(take), str(out), *arguments, *more]) == 0
    sound, rate = soundfile.read(out)
    assert len(sound) == 4 * rate
    assert level_db(sound[: rate // 2]) < -55 - 10


def test_recipe_check_and_show(tmp_path, capsys):
    assert main(["recipe", "check", str(STARTER)]) == 0
    assert main(["recipe", "show", str(STARTER)]) == 0
    assert "Turns steady noise down" in capsys.readouterr().out


# (arguments; T is a good take, R a good recipe, O a free name), part of the one line on stderr
BAD_INPUT = [
    (["measure", "none.wav"], "no such file"),
    (["measure", "T", "--room-tone", "5:99"], "--room-tone"),
    (["process", "T", "O.mp4", "--recipe", "R"], "ending must be"),
    (["process", "T", "T", "--recipe", "R", "--force"], "cannot replace the recording itself"),
    (["process", "T", "R", "--recipe", "R"], "ending must be"),
    (["process", "T", "exists.wav", "--recipe", "R"], "--force"),
    (["process", "T", "O.wav", "--recipe", "none.json"], "no such recipe"),
    (["process", "T", "O.wav", "--recipe", "T"], "no JSON document"),
    (["process", "T", "O.wav", "--recipe", "bad.json"], "steps[0].params.gain_db"),
    (["process", "T", "O.wav", "--recipe", "R", "--room-tone", "1:1.01"], "at least 0.05 s"),
    (["process", "T", "O.wav", "--recipe", "R", "--room-tone", "4:2"], "start before the end"),
    (["process", "T", "O.wav", "--recipe", "R", "--cut", "0:6"], "leave nothing"),
    (["process", "empty.wav", "O.wav", "--recipe", "R"], "is empty"),
    (["process", "text.wav", "O.wav", "--recipe", "R"], "is no sound file"),
    (["process", "six.wav", "O.wav", "--recipe", "R"], "6 channels"),
    (["process", "half.wav", "O.wav", "--recipe", "R"], "ends early"),
    (["recipe", "check", "bad.json"], "must be from -60 to 60"),
]


@pytest.mark.parametrize(("arguments", "told"), BAD_INPUT)
def test_bad_input_gives_one_line_exit_2_and_no_file(
    take, tmp_path, capsys, monkeypatch, arguments, told
):
    monkeypatch.chdir(tmp_path)
    recipe = recipe_file(tmp_path)
    write(tmp_path / "exists.wav", noise(-20, 0.1))
    write(tmp_path / "six.wav", noise(-20, 0.1, channels=6))
    (tmp_path / "empty.wav").touch()
    (tmp_path / "text.wav").write_text("hello")
    (tmp_path / "half.wav").write_bytes(take.read_bytes()[: take.stat().st_size // 2])
    bad = NEUTRAL | {"steps": [{"type": "gain", "params": {"gain_db": 600}}]}
    (tmp_path / "bad.json").write_text(json.dumps(bad))
    before = sorted(p.name for p in tmp_path.iterdir())
    names = {"T": str(take), "R": recipe}
    assert main([names.get(a, a) for a in arguments]) == 2
    error = capsys.readouterr().err
    assert told in error
    assert error.count("\n") == 1
    assert sorted(p.name for p in tmp_path.iterdir()) == before


@pytest.mark.parametrize("arguments", [[], ["sing"], ["measure"], ["process", "a", "b"]])
def test_bad_use_exits_2(arguments):
    with pytest.raises(SystemExit) as ended:
        main(arguments)
    assert ended.value.code == 2


def test_silence_passes_with_a_word_about_it(tmp_path, capsys):
    silence = write(tmp_path / "s.wav", np.zeros((1, RATE), np.float32))
    out = tmp_path / "o.wav"
    assert main(["process", str(silence), str(out), "--recipe", str(STARTER)]) == 0
    assert "silence" in capsys.readouterr().err
    assert not soundfile.read(out)[0].any()


def test_a_full_disk_leaves_nothing(take, tmp_path):
    """A real refusal of the system: the process may write no more than 100 kB to a file."""
    code = "import sys; from zesty_cli.main import main; sys.exit(main(sys.argv[1:]))"
    out = tmp_path / "o.wav"
    arguments = ["process", str(take), str(out), "--recipe", str(STARTER)]
    done = subprocess.run(
        [sys.executable, "-c", code, *arguments],
        capture_output=True, text=True, check=False,
        preexec_fn=lambda: resource.setrlimit(resource.RLIMIT_FSIZE, (100_000, 100_000)),
    )  # fmt: skip
    assert done.returncode == 1
    assert "not written" in done.stderr
    assert "Traceback" not in done.stderr
    assert sorted(p.name for p in tmp_path.iterdir()) == ["take.wav"]


def test_help_starts_without_the_heavy_libraries():
    heavy = "('numpy', 'numba', 'django')"
    code = f"import sys, zesty_cli.main; print([m for m in {heavy} if m in sys.modules])"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"
