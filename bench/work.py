"""What is measured: takes, chains, and the program in a process of its own."""

from __future__ import annotations

import json
import resource
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import soundfile

ROOT = Path(__file__).parent.parent
RATE = 48_000
SOURCES = ("hide-guide-causeway", "hide-guide-saltmarsh", "letters-31-opening", "letters-31-warden")

Steps = list[dict[str, Any]]

BANDS = [
    {"type": "high_pass", "freq_hz": 80, "slope_db_oct": 12},
    {"type": "low_shelf", "freq_hz": 150, "gain_db": 1},
    {"type": "bell", "freq_hz": 390, "gain_db": -3, "q": 1.4},
    {"type": "bell", "freq_hz": 2500, "gain_db": 1.5},
    {"type": "bell", "freq_hz": 4500, "gain_db": 1},
    {"type": "high_shelf", "freq_hz": 9000, "gain_db": 2},
]
EIGHT: Steps = [
    {"type": "normalize"},
    {"type": "noise_reduction"},
    {"type": "gate"},
    {"type": "de_esser"},
    {"type": "eq", "params": {"bands": BANDS}},
    {"type": "compressor", "params": {"threshold_db": -18, "ratio": 2.5}},
    {"type": "limiter", "params": {"ceiling_dbtp": -1}},
    {"type": "loudness"},
]
FIVE: Steps = [s for s in EIGHT if s["type"] not in ("gate", "de_esser", "loudness")]


def without_noise(steps: Steps) -> Steps:
    """The same chain without noise reduction."""
    return [s for s in steps if s["type"] != "noise_reduction"]


def long_take(path: Path, minutes: float, channels: int = 1) -> Path:
    """A take of this length from the demo recordings, over and over."""
    once = np.concatenate(
        [
            soundfile.read(ROOT / "samples" / "recordings" / f"{n}.wav", dtype="float32")[0]
            for n in SOURCES
        ]
    )
    frames = np.repeat(once[:, None], channels, axis=1)
    left = round(minutes * 60 * RATE)
    with soundfile.SoundFile(path, "w", RATE, channels, "PCM_24", format="RF64") as file:
        while left > 0:
            file.write(frames[:left])
            left -= min(left, len(frames))
    return path


def recipe(folder: Path, name: str, steps: Steps) -> Path:
    """Recipe document of a chain."""
    path = folder / f"{name}.zesty.json"
    document = {"format": "zesty-recipe", "version": 1, "name": name, "steps": steps}
    path.write_text(json.dumps(document))
    return path


def child(*arguments: object) -> tuple[float, float, float]:
    """Wall seconds, CPU seconds and peak MiB of a ``zesty`` command in a process of its own."""
    # The kernel's own high-water mark: what getrusage tells begins with the parent's memory.
    code = (
        "import sys; from zesty_cli.main import run; sys.argv[0] = 'zesty'; code = run();"
        "status = open('/proc/self/status').read();"
        "print(status.split('VmHWM:')[1].split()[0], file=sys.stderr); sys.exit(code)"
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
