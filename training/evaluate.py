"""Compares the voice model with the product's statistics on clean lines with held-out noises.

``python -m training.evaluate VOICES [PIECES [SEED]]`` takes the sound files below a folder, noises of
the held-out shards, and ratios of 5 to 30 dB; room tone is given to both. Prints mean gains over the
unprocessed of wide-band PESQ (ITU-T P.862.2), extended STOI and SI-SDR. Nothing is trained or tuned on
these voices.
"""

import sys
from pathlib import Path

import numpy as np
import soundfile
import soxr
from pesq import pesq
from pystoi import stoi

from training.chunks import TONE_SAMPLES
from training.mixtures import shards
from zesty_core.chain.recipe import chain_from_json
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import ArraySource, Span, joined

RATE_HZ = 48_000
RATIOS_DB = (5, 10, 15, 20, 30)
DEPTH_DB = 25.0


def reduced(noisy: np.ndarray, tone_s: float, method: str) -> np.ndarray:
    """By the product's own step, with the weights that it holds."""
    blocks: list[np.ndarray] = []
    params = {"depth_db": DEPTH_DB, "method": method}
    run_chain(
        ArraySource(noisy[None].astype(np.float32), RATE_HZ),
        chain_from_json([{"type": "noise_reduction", "params": params}]),
        lambda block: blocks.append(block.copy()),
        room_tone=RoomTone(spans=(Span(0.0, tone_s),)),
    )
    return joined(blocks, 1)[0]


def scores(clean: np.ndarray, made: np.ndarray) -> np.ndarray:
    a, b = (soxr.resample(x, RATE_HZ, 16_000) for x in (clean, made))
    scale = np.dot(a, b) / np.dot(a, a)
    distortion = 10 * np.log10(np.sum((scale * a) ** 2) / np.sum((b - scale * a) ** 2))
    return np.array([pesq(16_000, a, b, "wb"), stoi(a, b, 16_000, extended=True), distortion])


def main(voices: Path, pieces: int = 24, seed: int = 5) -> None:
    rng = np.random.default_rng(seed)
    noises = np.concatenate([np.load(path) for path in shards("noise", True)])
    sums: dict[tuple[str, int], list[np.ndarray]] = {}
    paths = sorted(p for p in voices.rglob("*") if p.suffix in (".flac", ".ogg", ".wav"))
    for number in range(pieces):
        sound, rate = soundfile.read(paths[number % len(paths)], always_2d=True)
        clean = soxr.resample(sound.mean(axis=1), rate, RATE_HZ)
        at = rng.integers(0, max(1, len(clean) - 8 * RATE_HZ))
        clean = clean[at : at + int(7.5 * RATE_HZ)]
        row = noises[rng.integers(len(noises))].astype(np.float64) / 32768
        tone_s = 2.0
        lead = round(tone_s * RATE_HZ)
        noise = row[TONE_SAMPLES - lead : TONE_SAMPLES + len(clean)]
        loud = np.abs(clean) > 0.02 * np.abs(clean).max()
        power = np.mean(clean[loud] ** 2)
        for ratio_db in RATIOS_DB:
            scaled = noise * np.sqrt(power / np.mean(noise[:lead] ** 2) / 10 ** (ratio_db / 10))
            noisy = np.concatenate([np.zeros(lead), clean]) + scaled
            noisy *= 0.5 / np.abs(noisy).max()
            reference = clean
            made = {
                "unprocessed": noisy,
                "statistics": reduced(noisy, tone_s, "statistics"),
                "model": reduced(noisy, tone_s, "voice_model"),
            }
            for name, sound in made.items():
                sums.setdefault((name, ratio_db), []).append(scores(reference, sound[lead:]))
    for place, title in enumerate(("PESQ", "extended STOI", "SI-SDR")):
        print(title)
        for name in ("statistics", "model"):
            gains = [
                np.mean(
                    [
                        a[place] - b[place]
                        for a, b in zip(sums[name, r], sums["unprocessed", r], strict=True)
                    ]
                )
                for r in RATIOS_DB
            ]
            print(f"  {name:12}", *(f"{gain:8.3f}" for gain in gains))


if __name__ == "__main__":
    main(Path(sys.argv[1]), *(int(given) for given in sys.argv[2:]))
