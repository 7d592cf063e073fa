"""``zesty batch``: folders, names, exit codes, nothing lost, doubled or overwritten."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time

import numpy as np
import pytest
import soundfile
from mutagen.mp3 import MP3

from tests.made_sound import PICTURE, RATE, STARTER, noise, spoken, write
from zesty_cli.main import main


@pytest.fixture
def takes(tmp_path):
    folder = tmp_path / "in"
    folder.mkdir()
    for seed, name in enumerate(("one", "two")):
        voice = np.concatenate([np.zeros((1, RATE), np.float32), spoken(3, seed=seed)], axis=1)
        write(folder / f"{name}.wav", 0.4 * voice + noise(-60, 4, seed=seed))
    (folder / "notes.txt").write_text("not a sound")
    return folder


def batch(takes, *arguments, target="Podcast, mono"):
    out = takes.parent / "out"
    # One at a time needs no other processes; several are tried where they matter.
    common = ["--recipe", str(STARTER), "--out", str(out), "--target", target, "--workers", "1"]
    return main(["batch", str(takes), *common, *arguments])


def test_a_folder_is_delivered_once_to_a_target(takes, capsys):
    assert batch(takes, "--name", "{number:02}-{title}", "--tag", "title={title}") == 0
    out = takes.parent / "out"
    assert sorted(p.name for p in out.glob("*.mp3")) == ["01-one.mp3", "02-two.mp3"]
    assert "2 delivered" in capsys.readouterr().out
    assert batch(takes, "--name", "{number:02}-{title}", "--tag", "title={title}") == 0
    assert "2 there already" in capsys.readouterr().out
    # Other settings make other files, which take no name away.
    again = ["--name", "{number:02}-{title}", "--tag", "title={title}", "--tag", "genre=Speech"]
    assert batch(takes, *again) == 0
    assert sorted(p.name for p in out.glob("01*.mp3")) == ["01-one 2.mp3", "01-one.mp3"]


def test_a_delivery_whose_file_is_gone_is_made_again_under_its_name(takes, capsys):
    assert batch(takes) == 0
    (takes.parent / "out" / "one.mp3").unlink()
    assert batch(takes) == 0
    assert "1 delivered, 1 there already" in capsys.readouterr().out


def test_bad_files_do_not_stop_the_others(takes, capsys):
    (takes / "broken.wav").write_bytes(b"RIFF1234WAVEnonsense")
    write(takes / "silent.wav", np.zeros((1, RATE), np.float32))
    stereo = np.clip(3 * spoken(3, channels=2), -1, 1) + noise(-60, 3, channels=2)
    write(takes / "stereo.flac", stereo.astype(np.float32), subtype="PCM_16")
    assert batch(takes, "--json") == 1
    found = {o["source"]: o for o in json.loads(capsys.readouterr().out)}
    assert len(found) == 5
    assert "broken.wav" in found["broken.wav"]["error"]
    assert found["silent.wav"]["receipt"]["check"][0]["is_met"] is None
    assert found["stereo.flac"]["receipt"]["file"]["channels"] == 1
    assert not (takes.parent / "out" / "broken.mp3").exists()


def test_a_missed_target_ends_with_3(takes, tmp_path):
    path = tmp_path / "loud.json"
    bounds = {"integrated_lufs": {"low": -3}, "true_peak_dbtp": {"high": -1}}
    document = {"format": "zesty-target", "version": 1, "name": "Loud", "bounds": bounds}
    path.write_text(json.dumps(document))
    assert batch(takes, target=str(path)) == 3


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["--target", "Nobody's"], "must be a target document or one of"),
        (["--name", "{colour}"], "knows the fields"),
        (["--depth", "16"], "is for WAV and FLAC"),
        (["--cover", "none.png"], "--cover"),
        (["--workers", "0"], "at least 1"),
        (["--tag", "mood=dry"], "is not one of"),
    ],
)
def test_bad_use_ends_with_2_and_one_line(takes, capsys, arguments, words):
    assert batch(takes, *arguments) == 2
    said = capsys.readouterr().err
    assert words in said
    assert said.count("\n") == 1
    assert main(["batch", "nowhere", "--recipe", str(STARTER), "--out", str(takes)]) == 2


def test_a_set_keeps_its_differences(takes, capsys):
    quiet, rate = soundfile.read(takes / "two.wav", dtype="float32")
    write(takes / "two.wav", 0.5 * quiet[None], rate)
    assert batch(takes, "--set-level", "keep", "--json", "--format", "wav") == 0
    first, second = (o["receipt"] for o in json.loads(capsys.readouterr().out))
    kept = first["after"]["integrated_lufs"] - second["after"]["integrated_lufs"]
    recorded = first["before"]["integrated_lufs"] - second["before"]["integrated_lufs"]
    assert kept == pytest.approx(recorded, abs=0.2)


def start(takes, *arguments):
    out = takes.parent / "out"
    command = ["batch", str(takes), "--recipe", str(STARTER), "--out", str(out), *arguments]
    return subprocess.Popen(
        [sys.executable, "-m", "zesty_cli.main", *command, "--target", "Podcast, mono"],
        start_new_session=True,
        stderr=subprocess.DEVNULL,
        stdout=subprocess.DEVNULL,
    )


def test_killed_at_any_time_no_file_is_lost_or_doubled(takes):
    for copy in range(2):
        write(takes / f"take {copy}.wav", 0.3 * spoken(3, seed=copy) + noise(-60, 3, seed=copy))
    out = takes.parent / "out"
    for wait_s in (1.8, 2.8):
        process = start(takes, "--workers", "2")
        time.sleep(wait_s)
        os.killpg(process.pid, signal.SIGKILL)
        process.wait()
        for path in out.glob("*.mp3"):
            assert soundfile.info(path).frames > 0
    assert start(takes, "--workers", "2").wait() == 0
    names = sorted(p.stem for p in out.glob("*.mp3"))
    assert names == ["one", "take 0", "take 1", "two"]
    assert not list(out.glob(".zesty-*"))


def test_a_worker_that_dies_is_replaced(takes):
    process = start(takes, "--workers", "2")
    out = takes.parent / "out"
    deadline = time.monotonic() + 30
    killed = 0
    while process.poll() is None and time.monotonic() < deadline:
        if not killed and list(out.glob(".zesty-*")):
            os.kill(_workers_of(process.pid)[0], signal.SIGKILL)
            killed += 1
        time.sleep(0.02)
    assert process.wait(60) == 0
    assert killed == 1
    assert len(list(out.glob("*.mp3"))) == 2


def _workers_of(pid):
    """Processes that deliver: neither the manager nor the resource tracker."""
    ps = ["ps", "-ww", "-o", "pid=,args=", "--ppid", str(pid)]
    said = subprocess.run(ps, capture_output=True, text=True, check=True).stdout
    return [int(line.split()[0]) for line in said.splitlines() if "spawn_main" in line]


def test_a_watched_folder_delivers_what_comes_in(takes):
    process = start(takes, "--watch", "--workers", "1")
    out = takes.parent / "out"
    try:
        _until(lambda: len(list(out.glob("*.mp3"))) == 2)
        write(takes / "late.wav", 0.3 * spoken(3) + noise(-60, 3))
        _until((out / "late.mp3").exists)
    finally:
        os.kill(process.pid, signal.SIGINT)
    assert process.wait(20) == 0


def _until(done):
    deadline = time.monotonic() + 60
    while not done():
        assert time.monotonic() < deadline
        time.sleep(0.1)


@pytest.mark.parametrize(
    ("arguments", "container", "rate", "channels"),
    [
        (["--format", "flac", "--depth", "16"], "FLAC", 44_100, 1),
        (["--format", "wav", "--rate", "48000", "--channels", "2"], "WAV", 48_000, 2),
        (["--bitrate", "64", "--vbr"], "MP3", 44_100, 1),
    ],
)
def test_arguments_change_what_the_target_says_of_the_file(
    takes, capsys, arguments, container, rate, channels
):
    assert batch(takes, *arguments, "--json") == 0
    receipts = [o["receipt"] for o in json.loads(capsys.readouterr().out)]
    for receipt in receipts:
        file = receipt["file"]
        made = (file["container"], file["sample_rate_hz"], file["channels"])
        assert made == (container, rate, channels)
        info = soundfile.info(takes.parent / "out" / file["name"])
        assert (info.samplerate, info.channels) == (rate, channels)
        assert all(rule["is_met"] for rule in receipt["check"])


def test_room_tone_of_another_file_and_a_cover(takes, tmp_path, capsys):
    tone = write(tmp_path / "room.wav", noise(-60, 2))
    (tmp_path / "cover.png").write_bytes(PICTURE)
    extra = ["--room-tone", str(tone), "--cover", str(tmp_path / "cover.png"), "--json"]
    assert batch(takes, *extra) == 0
    receipt = json.loads(capsys.readouterr().out)[0]["receipt"]
    assert receipt["room_tone"]["source"] == "other recording"
    tags = MP3(takes.parent / "out" / receipt["file"]["name"]).tags
    assert tags.getall("APIC")[0].data == PICTURE
