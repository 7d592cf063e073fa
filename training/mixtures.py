"""Batches of mixtures: pairs of speech and noise at a drawn ratio, colour and bandwidth."""

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import torch
from torch import Tensor

from training.chunks import CHUNK_SAMPLES, HELD_OUT, RATE_HZ, TONE_SAMPLES
from training.network import BINS, HOP, WINDOW, spectra
from training.places import data_folder

FRAMES = 384
SAMPLES = (FRAMES - 1) * HOP + WINDOW


def shards(kind: str, held_out: bool) -> list[Path]:
    found = sorted((data_folder() / kind).glob("[0-9]????.npy"))
    return [path for path in found if (int(path.stem) >= HELD_OUT) == held_out]


class Mixtures:
    """Endless batches; batch ``n`` depends on the seed, ``n`` and the shards present."""

    def __init__(self, held_out: bool, seed: int) -> None:
        self.held_out, self.seed = held_out, seed
        self.refresh()

    def refresh(self) -> None:
        self.speech = [np.load(p, mmap_mode="r") for p in shards("speech", self.held_out)]
        self.noise = [np.load(p, mmap_mode="r") for p in shards("noise", self.held_out)]

    def batch(self, number: int, size: int) -> tuple[Tensor, Tensor, Tensor]:
        """Speech spectra, noise spectra (both scaled) and room tone power (batch, bins)."""
        rng = np.random.default_rng([self.seed, number])
        voices, noises, tones = [], [], []
        for _ in range(size):
            shard = self.speech[rng.integers(len(self.speech))]
            at = rng.integers(0, CHUNK_SAMPLES - SAMPLES)
            voices.append(shard[rng.integers(len(shard)), at : at + SAMPLES])
            shard = self.noise[rng.integers(len(self.noise))]
            row = shard[rng.integers(len(shard))]
            at = TONE_SAMPLES + rng.integers(0, CHUNK_SAMPLES - SAMPLES)
            noises.append(row[at : at + SAMPLES])
            tone = int(rng.uniform(0.7, 2.5) * RATE_HZ)
            tones.append(np.resize(row[:tone], TONE_SAMPLES))
        s = spectra(torch.from_numpy(np.stack(voices).astype(np.float32) / 32768))
        v = spectra(torch.from_numpy(np.stack(noises).astype(np.float32) / 32768))
        r = spectra(torch.from_numpy(np.stack(tones).astype(np.float32) / 32768))
        s = s * torch.from_numpy(np.stack([colour(rng) for _ in range(size)]))[:, None]
        gain = torch.tensor([10 ** (-snr_db(rng) / 20) for _ in range(size)], dtype=torch.float32)
        tone_power = (r.real**2 + r.imag**2).mean(1)
        loudness = (s.real**2 + s.imag**2)[..., 4:256].sum(-1)
        loud = loudness > loudness.quantile(0.95, dim=1, keepdim=True) * 1e-3
        active = (loudness * loud).sum(1) / loud.sum(1)
        gain = gain * torch.sqrt(active / (tone_power[:, 4:256].sum(1) + 1e-20))
        scale = torch.rsqrt(active.clamp_min(1e-12) / 252)
        s = s * scale[:, None, None]
        v = v * (gain * scale)[:, None, None]
        return s, v, tone_power * (gain * scale)[:, None] ** 2


GRID_HZ = np.arange(BINS) * RATE_HZ / WINDOW


def snr_db(rng: np.random.Generator) -> float:
    draw = rng.random()
    if draw < 0.45:
        return float(rng.uniform(-3, 40))
    return float(rng.uniform(2, 22)) if draw < 0.96 else 60.0


def colour(rng: np.random.Generator) -> np.ndarray:
    """A microphone: a smooth curve, often band-limited, sometimes with its low end missing."""
    at = np.linspace(np.log(60), np.log(22000), 6)
    curve = np.interp(np.log(np.maximum(GRID_HZ, 40)), at, rng.normal(0, 3, 6))
    curve += rng.uniform(-2, 2) * np.log2(np.maximum(GRID_HZ, 80) / 1000)
    if rng.random() < 0.4:
        edge = rng.choice([3900, 5500, 7000, 7950, 7950, 11000, 15000])
        curve -= np.clip((GRID_HZ - edge) / 200, 0, 1) * rng.uniform(40, 90)
    if rng.random() < 0.3:
        curve -= np.clip((rng.uniform(60, 250) - GRID_HZ) / 60, 0, 1) * 20
    return (10 ** (curve / 20)).astype(np.float32)


def validation(batches: int, size: int) -> Iterator[tuple[Tensor, Tensor, Tensor]]:
    mixtures = Mixtures(held_out=True, seed=99)
    return (mixtures.batch(k, size) for k in range(batches))
