"""Signals made for tests. Shape (channels, samples), float32."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

Sound = NDArray[np.float32]
RATE = 48_000
ROOT = Path(__file__).parent.parent
RECORDINGS = ROOT / "samples" / "recordings"
#: As far as a cover is looked at.
PICTURE = b"\x89PNG\r\n\x1a\n" + bytes(40)
STARTER = ROOT / "src" / "zesty_demo" / "boat-shed-narration.zesty.json"


def sine(
    level_dbfs: float,
    duration_s: float,
    freq_hz: float = 1000.0,
    rate: int = RATE,
    phase_deg: float = 0.0,
    channels: int = 1,
) -> Sound:
    """Sine whose peak is at ``level_dbfs``."""
    t = np.arange(round(duration_s * rate)) / rate
    x = 10 ** (level_dbfs / 20) * np.sin(2 * np.pi * freq_hz * t + np.deg2rad(phase_deg))
    return np.tile(x.astype(np.float32), (channels, 1))


def noise(
    rms_dbfs: float, duration_s: float, rate: int = RATE, seed: int = 0, channels: int = 1
) -> Sound:
    """White noise."""
    x = np.random.default_rng(seed).standard_normal((channels, round(duration_s * rate)))
    return (x * 10 ** (rms_dbfs / 20)).astype(np.float32)


def spoken(duration_s: float = 8.0, rate: int = RATE, seed: int = 1, channels: int = 1) -> Sound:
    """Sound built like speech: voiced syllables with harmonics and pauses, about -20 dBFS."""
    rng = np.random.default_rng(seed)
    n = round(duration_s * rate)
    t = np.arange(n) / rate
    pitch = 120 + 15 * np.sin(2 * np.pi * 0.7 * t)
    phase = 2 * np.pi * np.cumsum(pitch) / rate
    voiced = sum(np.sin(k * phase) / k**1.2 for k in range(1, 25) if k * 140 < rate / 2)
    syllables = np.clip(np.sin(2 * np.pi * 2.1 * t + rng.uniform(0, 6)), 0, 1) ** 0.7
    words = (np.sin(2 * np.pi * 0.31 * t - 1.2) > -0.4).astype(float)
    x = np.asarray(voiced) * syllables * words
    x *= 0.1 / np.sqrt(np.mean(x[x != 0] ** 2))
    return np.tile(x.astype(np.float32), (channels, 1))


def words(duration_s: float, pause_s: float) -> Sound:
    """Words of a third of a second, softer and louder by 6 dB in turn over four seconds, with pauses
    of so long between them; RMS of the words -20 dBFS."""
    t = np.arange(round(duration_s * RATE)) / RATE
    loud = (t % (0.35 + pause_s) < 0.35) * 10.0 ** (6.0 * np.sin(2 * np.pi * t / 4.0) / 20.0)
    slopes = np.convolve(loud, np.hanning(960) / np.hanning(960).sum(), "same")
    sound = (np.sign(np.sin(2 * np.pi * 110 * t)) + np.sin(2 * np.pi * 700 * t)) * slopes
    sound *= 0.1 / np.sqrt(np.mean(np.square(sound[loud > 0])))
    return sound[None].astype(np.float32)


def swelling(sound: Sound, swing_db: float, every_s: float = 0.7) -> Sound:
    """Swells and sags, its RMS kept."""
    t = np.arange(sound.shape[1]) / RATE
    moving = 10.0 ** (swing_db * np.sin(2 * np.pi * t / every_s) / 20.0)
    return (sound * moving / np.sqrt(np.mean(moving**2))).astype(np.float32)


def sinking(sound: Sound) -> Sound:
    """From full level down, every second anew and each time lower: no floor twice."""
    t = np.arange(sound.shape[1]) / RATE
    return (sound * 10.0 ** (-(30 + 5 * np.floor(t)) * (t % 1) / 20.0)).astype(np.float32)


def write(path: Path, sound: Sound, rate: int = RATE, subtype: str = "PCM_24") -> Path:
    """Write a sound file."""
    soundfile.write(path, sound.T, rate, subtype)
    return path


def level_db(x: NDArray[np.floating]) -> float:
    """RMS in dB."""
    return float(10 * np.log10(np.mean(np.square(x, dtype=np.float64)) + 1e-30))
