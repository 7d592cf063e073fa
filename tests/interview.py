"""Interviews made of the demo's clean lines."""

from __future__ import annotations

import json

import numpy as np
import soundfile
import soxr

from tests.made_sound import RATE, ROOT, Sound, level_db, noise

VOICES = ROOT / "src" / "zesty_demo" / "voices"


def lines(voice: str) -> list[Sound]:
    """Spoken lines of a voice, all at one level (-20 dBFS while it sounds)."""
    sound, rate = soundfile.read(VOICES / f"{voice}.flac", dtype="float32")
    sound = soxr.resample(sound, rate, RATE)
    spans = json.loads((VOICES / f"{voice}.json").read_text())["lines"]
    cut = [sound[round(s["start_s"] * RATE) : round(s["end_s"] * RATE)] for s in spans]
    return [line * 10 ** ((-20 - sounding_db(line)) / 20) for line in cut]


def sounding_db(line: Sound) -> float:
    """Level of what is not a gap."""
    hops = line[: len(line) // 480 * 480].reshape(-1, 480)
    powers = np.square(hops, dtype=np.float64).mean(axis=1)
    return level_db(np.sqrt(powers[powers > powers.max() * 10**-2.5]))


def interview(
    voices: list[str], levels_db: list[float], *, turns: int = 12, together: bool = False
) -> tuple[Sound, list[tuple[float, float, int]]]:
    """Turns of one or two lines by each in turn, in a quiet room; with their start, end and speaker.

    ``together``: every fourth turn begins before the one before it has ended.
    """
    spoken = [lines(voice) for voice in voices]
    parts, truth, at = [], [], RATE
    for turn in range(turns):
        who = turn % len(voices)
        own = spoken[who]
        count = 1 + (turn // len(voices)) % 2
        speech = np.concatenate([own[(turn + k) % len(own)] for k in range(count)])
        if together and turn % 4 == 3:
            at -= round(1.5 * RATE)
        parts.append((at, speech * 10 ** (levels_db[who] / 20)))
        truth.append((at / RATE, (at + len(speech)) / RATE, who))
        at += len(speech) + round(0.3 * RATE)
    sound = noise(-70, at / RATE + 1)
    for start, speech in parts:
        sound[0, start : start + len(speech)] += speech
    return sound, truth
