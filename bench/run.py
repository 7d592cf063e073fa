"""Speed and memory, as ratios against general-purpose libraries on the same work in the same run.

Run by ``make bench``; writes ``docs/performance.md``. Absolute times depend on the machine and on
what else it does; the ratios hold. ``BENCH_MINUTES`` shortens the long takes, ``BENCH_TAKES`` the
batch.
"""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import soundfile

sys.path.insert(0, str(Path(__file__).parent.parent))

from bench.browser import waits_ms
from bench.others import effects_library, loudness_library, media_library
from bench.passages import passage_times_ms
from bench.work import EIGHT, FIVE, RATE, ROOT, best, child, long_take, recipe, without_noise

Row = tuple[str, str, str]


def our_loudness(sound: np.ndarray) -> Callable[[], object]:
    from zesty_core.measures.loudness import LoudnessMeter

    def work() -> object:
        meter = LoudnessMeter(RATE, 1)
        for start in range(0, len(sound), 16_384):
            meter.push(sound[None, start : start + 16_384])
        return meter.integrated_lufs()

    return work


def speed(minutes: float, wall_s: float) -> str:
    return f"{minutes * 60 / wall_s:.0f}x real time"


def long_runs(folder: Path, minutes: float) -> list[Row]:
    """The chains on an hour, and memory on three hours in stereo."""
    hour = long_take(folder / "hour.wav", minutes)
    out = folder / "out.wav"
    rows = []
    chains = {
        "eight-step chain": EIGHT,
        "eight steps but noise reduction": without_noise(EIGHT),
        "five-step chain": FIVE,
    }
    for name, steps in chains.items():
        chain = recipe(folder, "chain", steps)
        out.unlink(missing_ok=True)  # or time would go into freeing it
        wall, cpu, peak = child("process", hour, out, "--recipe", chain)
        what = f"{cpu:.0f} CPU s, {peak:.0f} MiB at most"
        rows.append((f"{name}, {minutes:g} min mono", speed(minutes, wall), what))
    wide = long_take(folder / "wide.wav", 3 * minutes, channels=2)
    wall, cpu, peak = child(
        "process", wide, out, "--recipe", recipe(folder, "chain", EIGHT), "--force"
    )
    what = f"{cpu:.0f} CPU s, {peak:.0f} MiB at most"
    rows.append((f"eight-step chain, {3 * minutes:g} min stereo", speed(3 * minutes, wall), what))
    return rows


def beside_others(folder: Path) -> list[Row]:
    """Ten minutes, taking turns with the other libraries."""
    ten, out, other = long_take(folder / "ten.wav", 10), folder / "o.wav", folder / "p.wav"
    pairs: list[tuple[str, list, Callable[[], object], str]] = [
        ("eight-step chain", EIGHT, lambda: media_library(ten, other), "PyAV filters"),
        (
            "five-step chain",
            FIVE,
            lambda: effects_library(ten, other, with_noise=True),
            "pedalboard + noisereduce",
        ),
        (
            "five steps but noise reduction",
            without_noise(FIVE),
            lambda: effects_library(ten, other, with_noise=False),
            "pedalboard, which measures nothing",
        ),
    ]
    rows = []
    for name, steps, work, library in pairs:
        chain = recipe(folder, "chain", steps)
        ours, theirs = [], []
        for _ in range(2):
            ours.append(child("process", ten, out, "--recipe", chain, "--force")[0])
            theirs.append(best(work, 1))
        a, b = min(ours), min(theirs)
        what = f"{b / a:.2f} times {library} ({speed(10, b)})"
        rows.append((f"{name}, 10 min mono", speed(10, a), what))
    sound = soundfile.read(ten, dtype="float32")[0]
    a, b = best(our_loudness(sound)), best(loudness_library(sound))
    rows.append(("integrated loudness, 10 min mono", speed(10, a), f"{b / a:.1f} times pyloudnorm"))
    return rows


def formats(folder: Path) -> list[Row]:
    """Encoding, and a file with long digital silence."""
    ten, chain = (
        folder / "ten.wav",
        recipe(folder, "chain", [{"type": "gain", "params": {"gain_db": -1}}]),
    )
    wall = child("process", ten, folder / "o.mp3", "--recipe", chain, "--force")[0]
    rows = [("MP3 file, 10 min mono, measured before and after", speed(10, wall), "")]
    sound = soundfile.read(ten, dtype="float32")[0]
    sound[len(sound) // 4 :] = 0.0
    silent = folder / "silent.wav"
    soundfile.write(silent, sound, RATE, "PCM_24")
    chain = recipe(folder, "chain", EIGHT)
    full = min(
        child("process", ten, folder / "o.wav", "--recipe", chain, "--force")[1] for _ in range(2)
    )
    hushed = min(
        child("process", silent, folder / "o.wav", "--recipe", chain, "--force")[1]
        for _ in range(2)
    )
    rows.append(
        (
            "CPU time with three quarters digital silence",
            f"{hushed / full:.2f} of the same without",
            "",
        )
    )
    return rows


def answers(folder: Path, minutes: float) -> list[Row]:
    """What a person waits for."""
    whole, late = passage_times_ms(folder / "ten.wav")
    short = long_take(folder / "short.wav", 10 / 60)
    measure = statistics.median(child("measure", short)[0] for _ in range(5))
    command = [sys.executable, "-m", "zesty_cli.main", "--help"]
    help_s = best(lambda: subprocess.run(command, capture_output=True, check=True), 5)
    waits = waits_ms(folder, long_take(folder / "hour.wav", minutes))
    return [
        *(
            (what, f"{wait:.0f} ms" if wait < 1000 else f"{wait / 1000:.1f} s", "in a browser")
            for what, wait in waits.items()
        ),
        ("passage of 10 s, whole chain, 95th percentile", f"{whole:.0f} ms", ""),
        ("passage of 10 s, compressor changed, 95th percentile", f"{late:.0f} ms", ""),
        ("`zesty measure`, 10 s", f"{measure:.2f} s", "start of the program included"),
        ("`zesty --help`", f"{help_s:.2f} s", ""),
    ]


def batches(folder: Path, count: int) -> list[Row]:
    """So many takes of a minute towards a target, by one worker and by two."""
    takes = folder / "takes"
    takes.mkdir()
    long_take(folder / "minute.wav", 1)
    sound = soundfile.read(folder / "minute.wav", dtype="float32")[0]
    for number in range(count):
        noise = np.random.default_rng(number).standard_normal(len(sound)).astype(np.float32)
        soundfile.write(takes / f"{number}.wav", sound + 1e-4 * noise, RATE, "PCM_24")
    chain = recipe(folder, "chain", FIVE)
    walls = []
    for workers in ("1", "2"):
        out = folder / f"out {workers}"
        arguments = ("--recipe", chain, "--out", out, "--target", "Podcast, mono")
        walls.append(child("batch", takes, *arguments, "--workers", workers)[0])
    what = f"{walls[0] / walls[1]:.2f} times one worker"
    name = f"batch of {count} takes of 60 s as MP3, two workers"
    return [(name, speed(count, walls[1]), what)]


def main() -> None:
    minutes = float(os.environ.get("BENCH_MINUTES", "60"))
    takes = int(os.environ.get("BENCH_TAKES", "100"))
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        rows = beside_others(folder) + answers(folder, minutes) + formats(folder)
        rows += batches(folder, takes) + long_runs(folder, minutes)
    write(rows)


def write(rows: list[Row]) -> None:
    spin = best(lambda: sum(range(10_000_000)))
    lines = [
        "# Performance",
        "",
        "Written by `make bench`. Absolute figures are those of the machine it ran on and of what",
        "else that machine did: adding ten million numbers in plain Python took it",
        f"{spin:.2f} s, where an idle current processor needs about 0.2 s. The ratios compare with",
        "general-purpose libraries on the same work in the same run, reading and writing included.",
        "",
        "| what | Zesty Voice | beside |",
        "|---|---|---|",
        *(f"| {a} | {b} | {c} |" for a, b, c in rows),
        "",
        "A run also measures the recording before and after and behind every step (true peak, voice",
        "level, noise floor, loudness, spectrum, clipping), which the libraries beside it do not.",
        "",
    ]
    text = "\n".join(lines)
    (ROOT / "docs" / "performance.md").write_text(text)
    print(text)


if __name__ == "__main__":
    main()
