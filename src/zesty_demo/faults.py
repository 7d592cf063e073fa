"""What goes wrong in a home recording, as functions on sound at the working rate."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import signal

Sound = NDArray[np.float64]
Times = list[float]


def _rms(x: Sound) -> float:
    return float(np.sqrt(np.mean(x**2)))


def fan_hiss(length: int, rate: int, level_dbfs: float, rng: np.random.Generator) -> Sound:
    """Noise falling with frequency, breathing slowly, as a computer's fan does."""
    noise = rng.standard_normal(length)
    b, a = signal.butter(1, 900 / (rate / 2))
    low = signal.lfilter(b, a, noise)
    sound = 0.35 * noise + 2.0 * low
    slow = signal.lfilter([0.0005], [1, -0.9995], rng.standard_normal(length // 48 + 1))
    drift = np.interp(np.arange(length), np.arange(len(slow)) * 48, slow / (slow.std() + 1e-9))
    sound *= 10 ** (0.25 * drift / 20)
    return np.asarray(sound * 10 ** (level_dbfs / 20) / _rms(sound))


def hum(
    length: int, rate: int, mains_hz: float, level_dbfs: float, rng: np.random.Generator
) -> Sound:
    """Mains hum with harmonics."""
    t = np.arange(length) / rate
    amounts = {1: 1.0, 2: 0.7, 3: 0.45, 4: 0.2, 6: 0.15, 10: 0.05}
    tones = [
        amount * np.sin(2 * np.pi * mains_hz * k * t + rng.uniform(0, 2 * np.pi))
        for k, amount in amounts.items()
    ]
    sound = np.sum(tones, axis=0)
    return np.asarray(sound * 10 ** (level_dbfs / 20) / _rms(sound))


def sharpen_sibilants(
    voice: Sound, rate: int, gain_db: float, rng: np.random.Generator
) -> tuple[Sound, Times]:
    """Make hissing sounds sharper, and give them the top octave the sources lack."""
    high = signal.sosfilt(signal.butter(4, 4500, "high", fs=rate, output="sos"), voice)
    hop = rate // 100
    frames = len(voice) // hop
    power_high = np.square(high[: frames * hop]).reshape(frames, hop).mean(axis=1)
    power = np.square(voice[: frames * hop]).reshape(frames, hop).mean(axis=1)
    sharp = (power_high > 0.35 * power) & (power > 1e-6)
    envelope = np.convolve(sharp.astype(float), np.hanning(5) / np.hanning(5).sum(), "same")
    gate = np.interp(np.arange(len(voice)), (np.arange(frames) + 0.5) * hop, envelope)
    band = signal.butter(2, [5500, 14_000], "band", fs=rate, output="sos")
    air = signal.sosfilt(band, rng.standard_normal(len(voice)))
    level = np.interp(np.arange(len(voice)), (np.arange(frames) + 0.5) * hop, np.sqrt(power_high))
    amount = 10 ** (gain_db / 20) - 1
    voice = voice + gate * amount * (0.6 * high + 0.4 * air * level)
    starts = np.flatnonzero(np.diff(np.concatenate([[0], sharp.astype(int)])) == 1)
    return voice, [round(float(s) / 100, 2) for s in starts]


def add_plosives(
    voice: Sound, starts: Times, rate: int, count: int, rng: np.random.Generator
) -> Times:
    """Thumps of breath on the microphone at the start of some lines, in place."""
    chosen = sorted(rng.choice(starts, min(count, len(starts)), replace=False)) if count else []
    t = np.arange(round(0.12 * rate)) / rate
    thump = np.sin(2 * np.pi * 62 * t) * np.exp(-t / 0.035)
    for start in chosen:
        at = round(start * rate)
        voice[at : at + len(t)] += 0.5 * np.abs(voice).max() * thump
    return [round(float(s), 3) for s in chosen]


def add_breaths(
    voice: Sound, lines: list[tuple[float, float]], rate: int, rng: np.random.Generator
) -> Times:
    """Audible breaths before lines, in place."""
    sos = signal.butter(2, [500, 4500], "band", fs=rate, output="sos")
    times = []
    for start, _ in lines:
        length = round(rng.uniform(0.22, 0.34) * rate)
        breath = signal.sosfilt(sos, rng.standard_normal(length)) * np.hanning(length)
        at = round((start - 0.06) * rate) - length
        voice[at : at + length] += 0.012 * breath / _rms(breath) * np.abs(voice).max()
        times.append(round(at / rate, 3))
    return times


def boxy_room(voice: Sound, rate: int, gain_db: float, rng: np.random.Generator) -> Sound:
    """Early reflections of a small room and its resonance between 300 and 500 Hz."""
    out = voice.copy()
    for delay_ms, gain in ((2.3, 0.28), (3.9, -0.2), (6.1, 0.16), (9.7, 0.11), (14.2, -0.08)):
        delay = round(delay_ms * rng.uniform(0.95, 1.05) * rate / 1000)
        out[delay:] += gain * voice[:-delay]
    amount, f0, q = 10 ** (gain_db / 40), rng.uniform(330, 460), 2.0
    w0 = 2 * np.pi * f0 / rate
    alpha = np.sin(w0) / (2 * q)
    b = [1 + alpha * amount, -2 * np.cos(w0), 1 - alpha * amount]
    a = [1 + alpha / amount, -2 * np.cos(w0), 1 - alpha / amount]
    return np.asarray(signal.lfilter(b, a, out))


def clip(sound: Sound) -> list[int]:
    """Cut at full scale, in place; first samples of the runs of three and more."""
    top = 1.0 - 2.0**-23
    np.clip(sound, -top, top, out=sound)
    runs = []
    for channel in sound:
        flat = np.abs(channel) >= top
        edges = np.diff(np.concatenate([[0], flat.astype(int), [0]]))
        starts, stops = np.flatnonzero(edges == 1), np.flatnonzero(edges == -1)
        runs += [int(a) for a, b in zip(starts, stops, strict=True) if b - a >= 3]
    return sorted(runs)
