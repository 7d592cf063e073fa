"""Make six believable home recordings from the clean spoken lines in ``voices/``.

Each gets room tone at the head, hum, fan hiss, a boxy room, uneven lines, sharp sibilants, thumps,
breaths and so on, as its entry in ``RECORDINGS`` says. Beside every recording ``<name>.truth.json``
tells what was planted where. The same seed gives the same files.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
import soxr
from numpy.typing import NDArray

from zesty_demo.faults import (
    add_breaths,
    add_plosives,
    boxy_room,
    clip,
    fan_hiss,
    hum,
    sharpen_sibilants,
)

HERE = Path(__file__).parent
WORK_HZ = 48_000
HEAD_S, TAIL_S = 4.0, 1.5


@dataclass(frozen=True)
class Plan:
    """What one recording suffers from. Levels are those in the finished file."""

    name: str
    voice: str
    title: str
    role: str
    room: str
    seed: int
    peak_dbfs: float
    hiss_dbfs: float
    hum_dbfs: float
    hum_hz: float = 50.0
    boxy_db: float = 5.0
    line_gains_db: tuple[float, ...] = ()
    sibilance_db: float = 4.0
    plosives: int = 0
    breaths: bool = False
    dc_offset: float = 0.0
    over_full_scale_db: float = 0.0
    rate_hz: int = WORK_HZ
    channels: int = 1


RECORDINGS = (
    Plan(
        "hide-guide-causeway",
        "hide-guide-causeway",
        "Hide guide: causeway",
        "guide",
        "boat shed",
        11,
        -12.0,
        -57.0,
        -60.0,
        boxy_db=6.0,
        sibilance_db=4.0,
        plosives=3,
    ),
    Plan(
        "hide-guide-saltmarsh",
        "hide-guide-saltmarsh",
        "Hide guide: saltmarsh",
        "guide",
        "boat shed",
        12,
        -13.4,
        -58.0,
        -56.0,
        boxy_db=6.0,
        plosives=2,
    ),
    Plan(
        "letters-31-opening",
        "letters-opening",
        "Low Water Letters 31: opening",
        "presenter",
        "office cupboard",
        13,
        -9.0,
        -63.0,
        -70.0,
        boxy_db=3.0,
        sibilance_db=7.0,
        dc_offset=0.004,
    ),
    Plan(
        "letters-31-warden",
        "letters-warden",
        "Low Water Letters 31: warden",
        "warden",
        "kitchen table",
        14,
        -4.5,
        -50.0,
        -55.0,
        boxy_db=4.0,
        line_gains_db=(0.0, -6.0, 2.0, -7.0, -2.0),
        breaths=True,
    ),
    Plan(
        "counting-lesson-3",
        "counting-lesson",
        "Counting lesson 3",
        "trainer",
        "office cupboard",
        15,
        -11.0,
        -62.0,
        -69.0,
        boxy_db=3.0,
        plosives=2,
        channels=2,
    ),
    Plan(
        "volunteer-desk",
        "volunteer-desk",
        "Volunteer desk: weekend boat",
        "volunteer desk",
        "kitchen table",
        16,
        0.0,
        -47.0,
        -54.0,
        boxy_db=4.0,
        over_full_scale_db=4.0,
        rate_hz=44_100,
    ),
)


def make_recordings(folder: Path) -> None:
    """Write all recordings and what was planted in them into ``folder``."""
    folder.mkdir(parents=True, exist_ok=True)
    for plan in RECORDINGS:
        samples, truth = make(plan)
        path = folder / f"{plan.name}.wav"
        soundfile.write(path, samples.T, plan.rate_hz, "PCM_24")
        text = json.dumps(truth, indent=1, ensure_ascii=False)
        path.with_suffix(".truth.json").write_text(text + "\n", encoding="utf-8")


def make(plan: Plan) -> tuple[NDArray[np.float64], dict[str, object]]:
    """Samples (channels, n) and truth of one recording."""
    rng = np.random.default_rng(plan.seed)
    voice, lines = _voice(plan)
    voice, sibilants = sharpen_sibilants(voice, WORK_HZ, plan.sibilance_db, rng)
    plosives = add_plosives(voice, [a for a, _ in lines], WORK_HZ, plan.plosives, rng)
    breaths = add_breaths(voice, lines, WORK_HZ, rng) if plan.breaths else []
    voice = boxy_room(voice, WORK_HZ, plan.boxy_db, rng)
    peak = 10 ** ((plan.peak_dbfs + plan.over_full_scale_db) / 20)
    voice *= peak / np.abs(voice).max()
    channels = [voice] if plan.channels == 1 else [voice, 0.93 * voice]
    hiss = [fan_hiss(len(voice), WORK_HZ, plan.hiss_dbfs, rng) for _ in channels]
    mains = hum(len(voice), WORK_HZ, plan.hum_hz, plan.hum_dbfs, rng)
    sound = np.stack([c + h + mains for c, h in zip(channels, hiss, strict=True)])
    sound += plan.dc_offset
    if plan.rate_hz != WORK_HZ:
        sound = soxr.resample(sound.T, WORK_HZ, plan.rate_hz, quality="VHQ").T.reshape(
            plan.channels, -1
        )
    clipped = clip(sound) if plan.over_full_scale_db else []
    truth: dict[str, object] = {
        "title": plan.title,
        "role": plan.role,
        "room": plan.room,
        "sample_rate_hz": plan.rate_hz,
        "channels": plan.channels,
        "room_tone": [0.1, HEAD_S - (0.5 if plan.breaths else 0.1)],
        "lines": [[round(a, 3), round(b, 3)] for a, b in lines],
        "line_gains_db": list(plan.line_gains_db),
        "hiss_dbfs": plan.hiss_dbfs,
        "hum_dbfs": plan.hum_dbfs,
        "hum_hz": plan.hum_hz,
        "dc_offset": plan.dc_offset,
        "sibilants_s": sibilants,
        "sibilance_db": plan.sibilance_db,
        "plosives_s": plosives,
        "breaths_s": breaths,
        "clipped_at_s": [round(n / plan.rate_hz, 4) for n in clipped],
    }
    return sound, truth


def _voice(plan: Plan) -> tuple[NDArray[np.float64], list[tuple[float, float]]]:
    """Clean voice at the working rate with head and tail, and the times of its lines."""
    clean, rate = soundfile.read(HERE / "voices" / f"{plan.voice}.flac")
    spoken = json.loads((HERE / "voices" / f"{plan.voice}.json").read_text(encoding="utf-8"))
    voice = soxr.resample(clean, rate, WORK_HZ, quality="VHQ")
    for entry, gain_db in zip(spoken["lines"], plan.line_gains_db, strict=False):
        a, b = (round(entry[k] * WORK_HZ) for k in ("start_s", "end_s"))
        voice[a:b] *= 10 ** (gain_db / 20)
    head, tail = np.zeros(round(HEAD_S * WORK_HZ)), np.zeros(round(TAIL_S * WORK_HZ))
    lines = [(e["start_s"] + HEAD_S, e["end_s"] + HEAD_S) for e in spoken["lines"]]
    return np.concatenate([head, voice, tail]), lines
