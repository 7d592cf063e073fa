"""Speed and memory, as ratios against general-purpose libraries on the same work in the same run.

Run by ``make bench``; writes ``docs/performance.md``. Absolute times depend on the machine and on
what else it does; the ratios hold.
"""

from __future__ import annotations

import json
import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import soundfile

ROOT = Path(__file__).parent.parent
RATE = 48_000
SOURCES = ("hide-guide-causeway", "hide-guide-saltmarsh", "letters-31-opening", "letters-31-warden")
FIVE = [
    {"type": "normalize"},
    {"type": "noise_reduction"},
    {"type": "eq", "params": {"bands": [
        {"type": "high_pass", "freq_hz": 80, "slope_db_oct": 12},
        {"type": "bell", "freq_hz": 390, "gain_db": -3, "q": 1.4},
        {"type": "high_shelf", "freq_hz": 9000, "gain_db": 2},
    ]}},
    {"type": "compressor", "params": {"threshold_db": -18, "ratio": 2.5}},
    {"type": "limiter", "params": {"ceiling_dbtp": -1}},
]  # fmt: skip


def long_take(path: Path, minutes: float) -> None:
    """A take of this length from the demo recordings, over and over."""
    once = np.concatenate(
        [
            soundfile.read(ROOT / "samples" / "recordings" / f"{n}.wav", dtype="float32")[0]
            for n in SOURCES
        ]
    )
    left = round(minutes * 60 * RATE)
    with soundfile.SoundFile(path, "w", RATE, 1, "PCM_24") as file:
        while left > 0:
            file.write(once[:left])
            left -= min(left, len(once))


def recipe(folder: Path, name: str, steps: list[dict]) -> Path:
    path = folder / f"{name}.zesty.json"
    document = {"format": "zesty-recipe", "version": 1, "name": name, "steps": steps}
    path.write_text(json.dumps(document))
    return path


def child(*arguments: object) -> tuple[float, float, float]:
    """Wall seconds, CPU seconds and peak MiB of a ``zesty`` command in a process of its own."""
    code = (
        "import sys, resource; from zesty_cli.main import main; code = main(sys.argv[1:]);"
        "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss, file=sys.stderr); sys.exit(code)"
    )
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    start = time.perf_counter()
    done = subprocess.run(
        [sys.executable, "-c", code, *map(str, arguments)],
        capture_output=True,
        text=True,
        check=True,
    )
    wall = time.perf_counter() - start
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    cpu = after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime
    return wall, cpu, int(done.stderr.split()[-1]) / 1024


def best(work: Callable[[], object], times: int = 3) -> float:
    """Shortest of a few runs, in seconds."""
    spent = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        spent.append(time.perf_counter() - start)
    return min(spent)


def effects_library(take: Path, out: Path, with_noise: bool) -> float:
    """The same chain with a general-purpose effects library and a noise-reduction library."""
    import noisereduce
    import pedalboard as pb

    board = pb.Pedalboard([
        pb.HighpassFilter(80), pb.PeakFilter(390, -3, 1.4), pb.HighShelfFilter(9000, 2),
        pb.Compressor(-18, 2.5, 8, 120), pb.Gain(3), pb.Limiter(-1),
    ])  # fmt: skip
    start = time.perf_counter()
    sound, rate = soundfile.read(take, dtype="float32")
    sound *= 10 ** (-3 / 20) / np.abs(sound).max()
    if with_noise:
        sound = noisereduce.reduce_noise(
            sound, rate, stationary=True, y_noise=sound[: 3 * rate], n_fft=1024, prop_decrease=0.75
        )
    sound = board(sound.astype(np.float32), rate)
    soundfile.write(out, sound, rate, "PCM_24")
    return time.perf_counter() - start


def loudness_library(sound: np.ndarray) -> Callable[[], object]:
    import pyloudnorm

    meter = pyloudnorm.Meter(RATE)
    return lambda: meter.integrated_loudness(sound)


def our_loudness(sound: np.ndarray) -> Callable[[], object]:
    from zesty_core.measure.loudness import LoudnessMeter

    def work() -> object:
        meter = LoudnessMeter(RATE, 1)
        for start in range(0, len(sound), 16_384):
            meter.push(sound[None, start : start + 16_384])
        return meter.integrated_lufs()

    return work


def main() -> None:
    minutes = float(os.environ.get("BENCH_MINUTES", "60"))
    rows: list[tuple[str, str, str]] = []
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        hour, ten, out = folder / "hour.wav", folder / "ten.wav", folder / "out.wav"
        long_take(hour, minutes)
        long_take(ten, 10)
        five = recipe(folder, "five", FIVE)
        rest = recipe(folder, "rest", [s for s in FIVE if s["type"] != "noise_reduction"])

        wall, cpu, peak = child("process", hour, out, "--recipe", five, "--force")
        rows.append(
            (
                f"five-step chain, {minutes:g} min mono",
                speed(minutes, wall),
                f"{cpu:.0f} CPU s, {peak:.0f} MiB at most",
            )
        )
        wall_rest, cpu, _ = child("process", hour, out, "--recipe", rest, "--force")
        rows.append(
            (
                f"without noise reduction, {minutes:g} min mono",
                speed(minutes, wall_rest),
                f"{cpu:.0f} CPU s",
            )
        )

        ours = min(child("process", ten, out, "--recipe", five, "--force")[0] for _ in range(2))
        theirs = effects_library(ten, out, with_noise=True)
        rows.append(
            (
                "five-step chain, 10 min mono",
                speed(10, ours),
                f"{theirs / ours:.2f} times pedalboard + noisereduce ({speed(10, theirs)})",
            )
        )
        ours = min(child("process", ten, out, "--recipe", rest, "--force")[0] for _ in range(2))
        theirs = effects_library(ten, out, with_noise=False)
        rows.append(
            (
                "without noise reduction, 10 min mono",
                speed(10, ours),
                f"{theirs / ours:.2f} times pedalboard ({speed(10, theirs)}), which measures nothing",
            )
        )

        sound = soundfile.read(ten, dtype="float32")[0]
        a, b = best(our_loudness(sound)), best(loudness_library(sound))
        rows.append(
            ("integrated loudness, 10 min mono", speed(10, a), f"{b / a:.1f} times pyloudnorm")
        )

        short = folder / "short.wav"
        long_take(short, 10 / 60)
        times = [child("measure", short)[0] for _ in range(5)]
        rows.append(
            (
                "`zesty measure`, 10 s",
                f"{statistics.median(times):.2f} s",
                "start of the program included",
            )
        )
    write(rows)


def speed(minutes: float, wall_s: float) -> str:
    return f"{minutes * 60 / wall_s:.0f}x real time"


def write(rows: list[tuple[str, str, str]]) -> None:
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
        "level, noise floor, loudness, clipping), which the libraries beside it do not.",
        "",
    ]
    text = "\n".join(lines)
    (ROOT / "docs" / "performance.md").write_text(text)
    print(text)


if __name__ == "__main__":
    main()
