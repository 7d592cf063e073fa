"""Chunks of clean speech and of noise with its room tone, written in shards of 64.

A shard is an int16 array ``(64, samples)`` at 48 kHz. Speech chunks are 8 s; noise chunks are 2.5 s
of room tone followed by 8 s of the same noise. Training pairs them at random and draws ratio,
colour and bandwidth anew each time, so a few thousand chunks give endless mixtures.
Shard k of a kind is made from seed k alone and is the same on every machine.
"""

import sys
from pathlib import Path

import numpy as np
import scipy.signal as ss
import soxr

from training.places import data_folder

RATE_HZ = 48000
CHUNK_SAMPLES = 8 * RATE_HZ
TONE_SAMPLES = 5 * RATE_HZ // 2
SHARD = 64
#: Shards from this number on are for judging: other speakers, other events, other seeds.
HELD_OUT = 9000
HELD_OUT_GROUPS = {
    "ktu_fr", "ktu_de", "ktu_da", "hed_British", "hed_Default_es", "kle_ru", "kle_da", "kle_nl",
}  # fmt: skip


class Pools:
    """All clips, split by speaker group into those to train on and those held out."""

    def __init__(self, held_out: bool) -> None:
        clips = np.load(data_folder() / "clips.npz")
        ends = np.cumsum(clips["n"])
        samples, groups, kinds = clips["x"], clips["group"], clips["kind"]
        pieces = [samples[end - n : end] for n, end in zip(clips["n"], ends, strict=True)]
        self.voices: list[tuple[list[np.ndarray], int]] = []
        weights = []
        for group in sorted(set(groups[kinds == "voice"])):
            if (group in HELD_OUT_GROUPS) != held_out:
                continue
            mine = [pieces[i] for i in np.flatnonzero((groups == group) & (kinds == "voice"))]
            seconds = sum(map(len, mine)) / RATE_HZ
            if seconds > 8:
                self.voices.append((mine, RATE_HZ))
                weights.append(min(np.sqrt(seconds), 25.0))
        recorded = sum(weights)
        for path in sorted(data_folder().glob("spoken_*.npz")):
            spoken = np.load(path)
            ends = np.cumsum(spoken["n"])
            whole = spoken["x"]
            mine = [whole[end - n : end] for n, end in zip(spoken["n"], ends, strict=True)]
            cut = int(0.9 * len(mine))
            self.voices.append((mine[cut:] if held_out else mine[:cut], int(spoken["rate"])))
            weights.append(recorded * 0.35)
        self.weights = np.array(weights) / sum(weights)
        events = [pieces[i] for i in np.flatnonzero(kinds == "event")]
        self.events = events[::5] if held_out else [e for i, e in enumerate(events) if i % 5]
        rooms = np.load(data_folder() / "rooms.npz")["power"]
        self.rooms = rooms[1::4] if held_out else np.delete(rooms, np.s_[1::4], axis=0)


def level_at(x: np.ndarray, rms: float) -> np.ndarray:
    return x * (rms / (np.sqrt(np.mean(x * x)) + 1e-9))


def reverberate(x: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """A small room: sparse early reflections and an exponential tail behind the direct sound."""
    size = int(0.4 * RATE_HZ)
    response = rng.standard_normal(size) * np.exp(
        -np.arange(size) / RATE_HZ * 6.9 / rng.uniform(0.1, 0.7)
    )
    response[: int(0.002 * RATE_HZ)] = 0
    response = ss.lfilter([1], [1, -rng.uniform(0, 0.7)], response)
    response *= 10 ** (rng.uniform(-22, -3) / 20) / np.sqrt((response**2).sum())
    for _ in range(rng.integers(0, 8)):
        response[int(rng.uniform(0.0005, 0.03) * RATE_HZ)] += rng.uniform(-0.4, 0.4)
    response[0] = 1
    return ss.fftconvolve(x, response)[: len(x)]


def speech(pools: Pools, rng: np.random.Generator, samples: int) -> np.ndarray:
    """Continuous speech of one speaker (sometimes of two), clips with pauses between them."""
    out = np.zeros(samples + 16 * RATE_HZ)
    voice = rng.choice(len(pools.weights), p=pools.weights)
    speed = np.exp(rng.uniform(-0.18, 0.18))
    at = int(rng.uniform(0, 1.0) * RATE_HZ) - (int(0.8 * RATE_HZ) if rng.random() < 0.25 else 0)
    turns = rng.random() < 0.15
    while at < samples:
        if turns and rng.random() < 0.4:
            voice = rng.choice(len(pools.weights), p=pools.weights)
            speed = np.exp(rng.uniform(-0.18, 0.18))
        clips, rate = pools.voices[voice]
        clip = clips[rng.integers(len(clips))].astype(np.float32) / 32768
        clip = soxr.resample(clip, rate * speed * np.exp(rng.normal() * 0.01), RATE_HZ, "MQ")
        clip = level_at(clip[: 15 * RATE_HZ], 0.08) * 10 ** (rng.normal() * 2.0 / 20)
        begin = max(0, at)
        if at + len(clip) > 0:
            out[begin : at + len(clip)] += clip[begin - at :]
        at += len(clip) + int(
            rng.choice([0.03, 0.08, 0.15, 0.3, 0.6, 1.2]) * rng.uniform(0.5, 1.5) * RATE_HZ
        )
    out = out[:samples]
    return reverberate(out, rng) if rng.random() < 0.4 else out


def coloured(spectrum_db: np.ndarray, rng: np.random.Generator, samples: int) -> np.ndarray:
    """Gaussian noise with the power spectrum given 31.25 Hz apart."""
    taps = np.fft.irfft(10 ** (spectrum_db / 20))
    taps = np.roll(taps, len(taps) // 2) * np.hanning(len(taps))
    white = rng.standard_normal(samples + len(taps))
    return ss.oaconvolve(white, taps, mode="valid")[:samples]


GRID_HZ = np.arange(769) * 31.25


def curve_db(rng: np.random.Generator, spread_db: float, knots: int = 6) -> np.ndarray:
    at = np.linspace(np.log(60), np.log(22000), knots)
    return np.interp(np.log(np.maximum(GRID_HZ, 40)), at, rng.normal(0, spread_db, knots))


def noise_spectrum_db(pools: Pools, rng: np.random.Generator) -> np.ndarray:
    """A recorded room, a slope, a coloured slope with broad resonances, or white."""
    kind = rng.random()
    if kind < 0.35:
        power = pools.rooms[rng.integers(len(pools.rooms))]
        at_hz = np.arange(len(power)) * 50.0
        spectrum = 10 * np.log10(np.interp(GRID_HZ, at_hz, power) + 1e-12) + curve_db(rng, 2)
    elif kind < 0.62:
        slope = rng.uniform(-3, 10)
        corner = np.maximum(GRID_HZ, rng.uniform(20, 120))
        spectrum = -slope * np.log2(corner / 1000) + curve_db(rng, 1.5)
    elif kind < 0.9:
        spectrum = curve_db(rng, 8, int(rng.integers(4, 12)))
        spectrum -= rng.uniform(0, 6) * np.log2(np.maximum(GRID_HZ, 50) / 1000)
        for _ in range(rng.integers(0, 4)):
            centre = np.exp(rng.uniform(np.log(80), np.log(9000)))
            width = centre * rng.uniform(0.05, 0.4)
            spectrum += rng.uniform(3, 18) * np.exp(-(((GRID_HZ - centre) / width) ** 2))
    else:
        spectrum = np.zeros(len(GRID_HZ))
    return spectrum - 10 * np.log10(np.mean(10 ** (spectrum[4:256] / 10)))


def tones(rng: np.random.Generator, samples: int) -> np.ndarray:
    """Mains or motor hum with harmonics, or a few wandering whistles."""
    t = np.arange(samples) / RATE_HZ
    out = np.zeros(samples)
    if rng.random() < 0.6:
        mains = rng.choice([50, 60]) * (1 + rng.uniform(-0.01, 0.01))
        base = mains if rng.random() < 0.6 else rng.uniform(40, 420)
        slope = rng.uniform(0.3, 1.6)
        for harmonic in range(1, int(rng.integers(4, 36))):
            phase = 2 * np.pi * harmonic * base * t + rng.uniform(0, 6.28)
            out += np.sin(phase) * rng.uniform(0.2, 1) * harmonic**-slope
    else:
        wander = np.sin(2 * np.pi * rng.uniform(0.05, 1.0) * t) * rng.uniform(0, 4)
        for _ in range(int(rng.integers(1, 7))):
            freq = np.exp(rng.uniform(np.log(150), np.log(18000)))
            out += np.sin(2 * np.pi * freq * t + wander * rng.uniform(0.5, 1.5)) * rng.uniform(
                0.1, 1
            )
    return level_at(out, 1.0)


def crackle(rng: np.random.Generator, samples: int) -> np.ndarray:
    out = np.zeros(samples)
    count = int(rng.uniform(0.3, 15) * samples / RATE_HZ)
    out[rng.integers(0, samples, count)] = rng.standard_normal(count) * rng.uniform(3, 40)
    return ss.lfilter([1], [1, -rng.uniform(0.3, 0.97)], out)


def strokes(rng: np.random.Generator, samples: int) -> np.ndarray:
    """Bursts of short resonant strokes: keys, paper, cutlery, drops."""
    out = np.zeros(samples)
    length = int(0.08 * RATE_HZ)
    t = np.arange(length) / RATE_HZ
    at = rng.uniform(0, samples)
    while at < samples - length:
        decay = np.exp(-t / np.exp(rng.uniform(np.log(0.001), np.log(0.02))))
        body = rng.standard_normal(length)
        if rng.random() < 0.6:
            freq = np.exp(rng.uniform(np.log(300), np.log(7000)))
            body = 0.3 * body + np.sin(2 * np.pi * freq * t)
        out[int(at) : int(at) + length] += body * decay * rng.uniform(0.2, 1)
        at += rng.exponential(rng.choice([0.08, 0.15, 0.4])) * RATE_HZ
    return out / (np.sqrt(np.mean(out**2)) + 1e-6)


def noise(pools: Pools, rng: np.random.Generator) -> np.ndarray:
    """Room tone and noise in one piece; what comes and goes lies in the noise only."""
    samples = TONE_SAMPLES + CHUNK_SAMPLES
    out = coloured(noise_spectrum_db(pools, rng), rng, samples)
    if rng.random() < 0.15:  # a second, independent layer that swells
        layer = coloured(noise_spectrum_db(pools, rng), rng, samples)
        knots = np.interp(np.linspace(0, 7, samples), np.arange(8), rng.uniform(0, 1, 8))
        out += layer * knots * 10 ** (rng.uniform(-10, 3) / 20)
    if rng.random() < 0.35:
        out += tones(rng, samples) * 10 ** (rng.uniform(-15, 15) / 20)
    if rng.random() < 0.3:
        t = np.arange(samples) / RATE_HZ
        swell = rng.uniform(0.3, 3) * np.sin(
            6.28 * rng.uniform(0.05, 1.0) * t + rng.uniform(0, 6.28)
        )
        out *= 10 ** ((swell + rng.uniform(0, 1) * np.sin(6.28 * rng.uniform(0.5, 4) * t)) / 20)
    if rng.random() < 0.1:
        out += crackle(rng, samples)
    if rng.random() < 0.05:
        for _ in range(7):
            out += reverberate(speech(pools, rng, samples), rng) * 5 * rng.uniform(0.3, 1)
    out = level_at(out, 0.05)
    if rng.random() < 0.15:
        out[TONE_SAMPLES:] += strokes(rng, CHUNK_SAMPLES) * 0.05 * 10 ** (rng.uniform(-8, 10) / 20)
    if rng.random() < 0.3:
        for _ in range(rng.integers(1, 4)):
            event = pools.events[rng.integers(len(pools.events))].astype(np.float32) / 32768
            event = soxr.resample(event, RATE_HZ * np.exp(rng.uniform(-0.4, 0.4)), RATE_HZ, "MQ")
            event = event[: 4 * RATE_HZ] * 10 ** (rng.uniform(-12, 8) / 20)
            at = TONE_SAMPLES + int(rng.uniform(0, CHUNK_SAMPLES - len(event) // 2))
            piece = out[at : at + len(event)]
            piece += event[: len(piece)]
    return out


def to_int16(x: np.ndarray) -> np.ndarray:
    peak = np.abs(x).max()
    return (x * min(1.0, 0.97 / peak) * 32767).astype(np.int16)


def write_shard(kind: str, number: int, pools: Pools) -> Path:
    target = data_folder() / kind / f"{number:05}.npy"
    if target.exists():
        return target
    rng = np.random.default_rng([number, len(kind)])
    if kind == "speech":
        rows = [to_int16(speech(pools, rng, CHUNK_SAMPLES)) for _ in range(SHARD)]
    else:
        rows = [to_int16(noise(pools, rng)) for _ in range(SHARD)]
    target.parent.mkdir(parents=True, exist_ok=True)
    half_written = target.with_suffix(".part.npy")
    np.save(half_written, np.stack(rows))
    return half_written.replace(target)


if __name__ == "__main__":
    kinds, first, count = sys.argv[1].split(","), int(sys.argv[2]), int(sys.argv[3])
    material = Pools(held_out=first >= HELD_OUT)
    for number in range(first, first + count):
        for kind in kinds:
            print(write_shard(kind, number, material), flush=True)
