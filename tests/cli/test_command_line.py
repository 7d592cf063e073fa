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
    shown = capsys.readouterr().out
    assert "voice level" in shown
    assert "(quietest half second)" in shown
    assert "room tone  found from 0:00" in shown
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


@pytest.mark.parametrize(
    ("name", "options", "rate", "channels"),
    [
        ("o.wav", ["--depth", "16", "--rate", "44100", "--channels", "2"], 44_100, 2),
        ("o.flac", ["--depth", "16"], RATE, 1),
        ("o.mp3", ["--bitrate", "128", "--tag", "title=Ebb"], RATE, 1),
        ("o.ogg", ["--vbr"], RATE, 1),
        ("o.opus", ["--rate", "44100"], RATE, 1),
    ],
)
def test_finished_files_of_every_kind(take, tmp_path, name, options, rate, channels):
    out = tmp_path / name
    recipe = recipe_file(tmp_path, steps=[{"type": "gain", "params": {"gain_db": -1}}])
    assert main(["process", str(take), str(out), "--recipe", recipe, *options]) == 0
    info = soundfile.info(out)
    assert (info.samplerate, info.channels) == (rate, channels)
    assert info.duration == pytest.approx(6, abs=0.01)


@pytest.mark.parametrize("choice", ["mean", "left", "right", "better"])
def test_mono_of_a_stereo_take(tmp_path, choice):
    pair = np.concatenate([noise(-60, 5), spoken(5) + noise(-60, 5, seed=2)])
    source, out = write(tmp_path / "in.wav", pair), tmp_path / "o.wav"
    arguments = ["--recipe", recipe_file(tmp_path), "--mono", choice]
    assert main(["process", str(source), str(out), *arguments]) == 0
    expected = {"mean": pair.mean(axis=0), "left": pair[0]}.get(choice, pair[1])
    assert soundfile.read(out)[0] == pytest.approx(expected, abs=2e-7)


def test_a_damaged_mp3_is_told_in_one_line(tmp_path):
    """Its decoder writes remarks of its own to the terminal; they must not reach it."""
    path = write(tmp_path / "a.mp3", noise(-20, 3), subtype="MPEG_LAYER_III")
    data = bytearray(path.read_bytes())
    data[4000:4300] = bytes(300)
    path.write_bytes(data)
    done = subprocess.run(
        [sys.executable, "-m", "zesty_cli.main", "measure", str(path)],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode in (0, 2)
    assert done.stderr.count("\n") <= 1


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
    assert "a network trained on voices" in capsys.readouterr().out


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
    (["process", "nan.wav", "O.wav", "--recipe", "R"], "not a number at 0:00.1"),
    (["process", "hot.wav", "O.wav", "--recipe", "R"], "times full scale"),
    (["process", "lying.wav", "O.wav", "--recipe", "R"], "ends early"),
    (["process", "none.wav", "O.wav", "--recipe", "R"], "no such file"),
    (["process", "nosamples.wav", "O.wav", "--recipe", "R"], "holds no sound"),
    (["process", "fast.wav", "O.wav", "--recipe", "R"], "rate of 384000 Hz"),
    (["process", ".", "O.wav", "--recipe", "R"], "is not a file"),
    (["process", "T", "nowhere/O.wav", "--recipe", "R"], "does not exist"),
    (["process", "T", "O.mp3", "--recipe", "R", "--depth", "16"], "depth: is for WAV and FLAC"),
    (["process", "T", "O.mp3", "--recipe", "R", "--bitrate", "9"], "must be from 32 to 320"),
    (["process", "T", "O.wav", "--recipe", "R", "--tag", "x"], "NAME=TEXT"),
    (["process", "T", "O.wav", "--recipe", "R", "--tag", "mood=x"], "is not one of title"),
    (["process", "T", "O.wav", "--recipe", "R", "--room-tone", "1:2", "--room-tone", "x"], "START"),
]


@pytest.mark.parametrize(("arguments", "told"), BAD_INPUT)
def test_bad_input_gives_one_line_exit_2_and_no_file(
    take, tmp_path, capsys, monkeypatch, arguments, told
):
    monkeypatch.chdir(tmp_path)
    recipe = recipe_file(tmp_path)
    write(tmp_path / "exists.wav", noise(-20, 0.1))
    write(tmp_path / "six.wav", noise(-20, 0.1, channels=6))
    broken = noise(-20, 0.2)
    broken[0, 4800] = np.nan
    write(tmp_path / "nan.wav", broken, subtype="FLOAT")
    write(tmp_path / "hot.wav", 2e4 * noise(-20, 0.2), subtype="FLOAT")
    write(tmp_path / "nosamples.wav", noise(-20, 0.2)[:, :0])
    write(tmp_path / "fast.wav", noise(-20, 0.1), 384_000)
    lying = bytearray(take.read_bytes())
    lying[40:44] = (4_000_000_000).to_bytes(4, "little")
    (tmp_path / "lying.wav").write_bytes(lying)
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


# What a recipe document may not be, and the part of the line that says so.
ABSURD_RECIPES = [
    ("[]", "must be a JSON object"),
    ("{", "no JSON document"),
    ("[" * 100_000, "nested more than 40 deep"),
    ("[" * 60 + "]" * 60, "nested more than 40 deep"),
    ('STEP {"type": "gain", "params": {"gain_db": ' + "9" * 400 + "}}", "400 digits is too large"),
    ('{"format": "zesty-recipe", "version": 1, "name": "\\ud800", "steps": []}', "name: holds"),
    ('{"format": "zesty-recipe", "version": 3, "name": "x", "steps": []}', "version: must be"),
    ('{"format": "zesty-recipe", "version": 1, "name": "", "steps": []}', "name: must be"),
    ('{"format": "zesty-recipe", "version": 1, "name": "x", "steps": {}}', "steps: must be a list"),
    ('{"format": "zesty-recipe", "version": 1, "name": "x", "steps": [NaN]}', "no JSON document"),
    ('{"format": "zesty-recipe", "version": 1, "name": "x"}', "steps: must be a list"),
    ("STEP 5", "steps[0]: must be an object"),
    ('STEP {"type": "teleport"}', "steps[0].type: must be one of declip"),
    ('STEP {"type": "gain", "params": {"gain_db": 1e999}}', "1e999 is too large a number"),
    ('STEP {"type": "gain", "params": {"gain_db": true}}', "must be a number"),
    ('STEP {"type": "gain", "params": {"gain_db": "3"}}', "must be a number"),
    ('STEP {"type": "gain", "params": {"volume": 3}}', "steps[0].params.volume: is not one of"),
    ('STEP {"type": "gain", "enabled": "yes"}', "steps[0].enabled: must be true or false"),
    ('STEP {"type": "de_esser", "params": {"low_hz": 9000, "high_hz": 8000}}', "above low_hz"),
    ('STEP {"type": "eq", "params": {"bands": [{"q": 0}]}}', "steps[0].params.bands[0].q"),
    ('STEP {"type": "noise_reduction", "params": {"passes": 1.5}}', "must be one of 1, 2, 3, 4"),
]


@pytest.mark.parametrize(("document", "told"), ABSURD_RECIPES)
def test_absurd_recipes_are_refused_in_one_line(tmp_path, capsys, document, told):
    if document.startswith("STEP "):
        head = '{"format": "zesty-recipe", "version": 1, "name": "x", "steps": ['
        document = f"{head}{document[5:]}]}}"
    path = tmp_path / "r.json"
    path.write_text(document)
    assert main(["recipe", "check", str(path)]) == 2
    error = capsys.readouterr().err
    assert told in error
    assert error.count("\n") == 1
    assert len(error) < 2000


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
