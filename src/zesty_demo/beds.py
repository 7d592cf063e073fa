"""Make two music beds, by arithmetic alone: slow chords on soft tones, and a plucked pattern.

The same every time.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import soundfile

RATE = 44_100
#: Notes as semitones over A2 (110 Hz).
CHORDS = ((0, 7, 12, 16), (5, 12, 17, 21), (-4, 3, 12, 15), (-2, 5, 10, 14))


def tone(semitones: float, seconds: float, partials: tuple[float, ...]) -> np.ndarray:
    """A note with its partials."""
    t = np.arange(round(seconds * RATE)) / RATE
    hz = 110.0 * 2 ** (semitones / 12)
    made = (size * np.sin(2 * np.pi * hz * k * t) for k, size in enumerate(partials, 1))
    return sum(made, np.zeros(len(t)))


def slow_tide() -> np.ndarray:
    """Long chords that swell and fade into each other."""
    length, seconds = 40, 5.0
    out = np.zeros((2, length * RATE + round(2 * seconds * RATE)))
    swell = np.sin(np.pi * np.arange(round(2 * seconds * RATE)) / (2 * seconds * RATE)) ** 2
    for turn in range(round(length / seconds)):
        for voice, note in enumerate(CHORDS[turn % len(CHORDS)]):
            sound = swell * tone(note, 2 * seconds, (1.0, 0.4, 0.2, 0.08)) * 0.05
            side = 0.35 + 0.3 * (voice % 2)
            at = round(turn * seconds * RATE)
            out[0, at : at + len(sound)] += (1 - side) * sound
            out[1, at : at + len(sound)] += side * sound
    return out[:, round(seconds * RATE) : length * RATE]


def morning_count() -> np.ndarray:
    """A plucked pattern in eighths."""
    beat, turns = 0.3, 120
    out = np.zeros((2, round((beat * turns + 2) * RATE)))
    pattern = (0, 2, 1, 3, 2, 1, 3, 2)
    for turn in range(turns):
        note = CHORDS[turn // 16 % len(CHORDS)][pattern[turn % 8]] + 12
        sound = tone(note, 1.6, (1.0, 0.5, 0.35, 0.2, 0.1))
        sound *= np.exp(-np.arange(len(sound)) / (0.28 * RATE)) * 0.08
        at, side = round(turn * beat * RATE), 0.3 + 0.4 * (turn % 2)
        out[0, at : at + len(sound)] += (1 - side) * sound
        out[1, at : at + len(sound)] += side * sound
    return out


def make_beds(folder: Path) -> None:
    """Write both into ``folder``."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, made in (("slow-tide", slow_tide()), ("morning-count", morning_count())):
        soundfile.write(folder / f"{name}.flac", made.T, RATE, "PCM_16")
