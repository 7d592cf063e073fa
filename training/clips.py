"""Recorded clips of the unpacked packages -> voices, room spectra and events, as int16 at 48 kHz.

``clips.npz`` holds concatenated samples ``x``, lengths ``n``, speaker groups ``group``,
``kind`` (voice or event), estimated ratio ``snr_db`` and bandwidth ``bandwidth_hz``.
``rooms.npz`` holds power spectra of the quietest frames of noisy clips, 50 Hz apart.
"""

import re
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
import soxr

from training.places import data_folder

RATE_HZ = 48000
FRAME = 960
#: Groups that are no plain voice: music, robots, effects. Their clips are events.
EFFECTS = {"hed_Sounds", "hed_Music", "hed_Robot", "hed_Singer", "kanagram"}
CLEAN_SNR_DB = 38.0


@dataclass(frozen=True)
class Clip:
    group: str
    kind: str
    snr_db: float
    bandwidth_hz: float
    samples: np.ndarray
    floor: np.ndarray | None


def group_of(path: Path, root: Path) -> str:
    """The speaker group of a file: package and language or character."""
    package, *rest = path.relative_to(root).parts
    if package.startswith("tuxpaint"):
        language = re.search(r"_desc_([A-Za-z_@]+)\.", path.name)
        if language:
            return f"tux_{language[1]}"
        return "tux_en" if "_desc." in path.name else "tux_effects"
    if package.startswith("ktuberling"):
        return f"ktu_{rest[4]}"
    if package.startswith("klettres"):
        return f"kle_{rest[3]}"
    if package.startswith("hedgewars"):
        return f"hed_{rest[-2]}"
    return package


def read_clip(path: Path, root: Path) -> Clip | None:
    """One clip trimmed to its sound at an RMS of 0.08, or None where it is of no use."""
    try:
        x, rate = soundfile.read(path, dtype="float32", always_2d=True)
    except soundfile.LibsndfileError:
        return None
    group = group_of(path, root)
    voice = not (group in EFFECTS or group.endswith("effects") or "2100" in group)
    x = x.mean(axis=1)
    if rate < 16000 or not 0.25 <= len(x) / rate <= 15:
        return None
    x = x - x.mean()
    if rate != RATE_HZ:
        x = soxr.resample(x, rate, RATE_HZ)
    frames = x[: len(x) // FRAME * FRAME].reshape(-1, FRAME)
    if len(frames) < 10 or np.percentile(np.abs(x), 99.5) < 1e-3:
        return None
    power = np.abs(np.fft.rfft(frames * np.hanning(FRAME), axis=1)) ** 2
    level_db = 10 * np.log10(power[:, 2:160].sum(axis=1) + 1e-9)
    loud_db = np.percentile(level_db, 95)
    spectrum = power[level_db > loud_db - 25].mean(axis=0)
    present = np.flatnonzero(10 * np.log10(spectrum / spectrum.max() + 1e-12) > -75)
    if np.mean(np.abs(x) > 0.99 * np.abs(x).max()) > 0.003:
        return None
    active = np.flatnonzero(level_db > loud_db - 45)
    begin, end = max(0, (active[0] - 4) * FRAME), min(len(x), (active[-1] + 5) * FRAME)
    floor = power[level_db <= np.percentile(level_db, 12)].mean(axis=0) if rate >= 32000 else None
    x = x[begin:end]
    ramp = np.linspace(0, 1, 240, dtype=np.float32)
    x[:240] *= ramp
    x[-240:] *= ramp[::-1]
    x = np.clip(x / (np.sqrt(np.mean(x**2)) + 1e-9) * 0.08, -0.99, 0.99)
    return Clip(
        group,
        "voice" if voice else "event",
        float(loud_db - np.percentile(level_db, 8)),
        float(present.max() * RATE_HZ / FRAME),
        (x * 32767).astype(np.int16),
        floor,
    )


def sound_files(root: Path) -> list[Path]:
    return sorted(p for p in root.rglob("*") if p.suffix in {".ogg", ".wav", ".opus", ".mp3"})


def prepare() -> None:
    root = data_folder() / "x"
    files = sound_files(root)
    with ProcessPoolExecutor() as pool:
        found = pool.map(read_clip, files, [root] * len(files), chunksize=50)
        clips = [clip for clip in found if clip]
    by_group: dict[str, list[Clip]] = defaultdict(list)
    for clip in clips:
        by_group[clip.group].append(clip)
    for group, members in sorted(by_group.items()):
        minutes = sum(len(c.samples) for c in members) / RATE_HZ / 60
        clean = sum(len(c.samples) for c in members if c.snr_db > CLEAN_SNR_DB) / RATE_HZ / 60
        print(f"{group:16} {len(members):5d} clips {minutes:6.1f} min, {clean:6.1f} min clean")
    kept = [c for c in clips if c.kind == "event" or c.snr_db > CLEAN_SNR_DB]
    np.savez(
        data_folder() / "clips.npz",
        x=np.concatenate([c.samples for c in kept]),
        n=np.array([len(c.samples) for c in kept]),
        group=np.array([c.group for c in kept]),
        kind=np.array([c.kind for c in kept]),
        snr_db=np.array([c.snr_db for c in kept]),
        bandwidth_hz=np.array([c.bandwidth_hz for c in kept]),
    )
    noisy = [c for c in clips if c.floor is not None and 15 < c.snr_db < 45 and c.kind == "voice"]
    chosen = np.random.default_rng(0).permutation(len(noisy))[:800]
    np.savez(data_folder() / "rooms.npz", power=np.array([noisy[i].floor for i in chosen], "f4"))


if __name__ == "__main__":
    prepare()
