"""Trains the voice model and goes on where it stopped.

``python -m training.train HOURS`` keeps ``state.pt`` (weights, their running mean, the optimiser,
the step) and ``curve.csv`` in the data folder, written every few minutes.
"""

import csv
import sys
import time
from pathlib import Path

import torch
from torch import Tensor

from training.mixtures import FRAMES, Mixtures, validation
from training.network import HOP, WINDOW, VoiceModel, features, voice_level, waveform
from training.places import data_folder

BATCH = 8
LEARNING_RATE = 1.5e-3
WARM_UP_STEPS = 500
EVERY_S = 240
POWER = 0.3


def planes(x: Tensor, window: int) -> tuple[Tensor, Tensor]:
    """Real and imaginary part (batch, bins, frames), scaled to the network's own window."""
    hann = torch.hann_window(window, device=x.device) * (WINDOW / window) ** 0.5
    frames = torch.stft(x, window, window // 4, window=hann, center=False, return_complex=True)
    real, imag = torch.view_as_real(frames).movedim(-1, 0).contiguous()
    return real, imag


def hearing_weights(bins: int) -> Tensor:
    freq_hz = torch.arange(bins) * 24000 / (bins - 1)
    weights = 1 / (1 + freq_hz / 700)
    return weights / weights.sum()


def spectral_loss(got: Tensor, wanted: Tensor, window: int) -> Tensor:
    """Distance of compressed spectra: magnitudes, complex values, and voice that was taken."""
    (a, b), (c, d) = planes(got, window), planes(wanted, window)
    power_x, power_y = a * a + b * b + 1e-6, c * c + d * d + 1e-6
    log_x, log_y = torch.log(power_x), torch.log(power_y)
    small_x, small_y = torch.exp(POWER / 2 * log_x), torch.exp(POWER / 2 * log_y)
    cosine = (a * c + b * d) * torch.exp(-0.5 * (log_x + log_y))
    apart = small_x - small_y
    taken = apart.clamp_max(0)
    turned = 2 * small_x * small_y * (1 - cosine)
    total = apart * apart * 1.4 + 0.4 * turned + 0.5 * taken * taken
    return (total.mean((0, 2)) * hearing_weights(total.shape[1])).sum()


def distortion_db(got: Tensor, wanted: Tensor) -> Tensor:
    off = (got - wanted).pow(2).sum(1)
    return 10 * torch.log10(off / (wanted.pow(2).sum(1) + 1e-2) + 1e-4)


def losses(model: VoiceModel, s: Tensor, v: Tensor, tone: Tensor, depth_db: Tensor) -> dict:
    """All losses of one batch. The depth's share of the unprocessed lies in output and target."""
    noisy = s + v
    level = voice_level(noisy, tone)
    gain, taps, voice = model(features(noisy, tone, level, model.bands))
    enhanced = model.enhance(noisy, gain, taps)
    keep = (10 ** (-depth_db / 20))[:, None]
    x, clean, rest = (waveform(z)[:, 1024:-1024] for z in (enhanced, s, v))
    got = x + keep * (clean + rest - x)
    wanted = clean + keep * rest
    spectral = spectral_loss(got, wanted, 1536) + 0.5 * spectral_loss(got, wanted, 512)
    distortion = distortion_db(x, clean).mean()
    loudness = (s.real**2 + s.imag**2)[..., 4:256].sum(-1)
    present = (loudness > 252 * 10**-3.5).float()
    voiced = torch.nn.functional.binary_cross_entropy_with_logits(voice, present)
    total = spectral + 0.003 * distortion + 0.01 * voiced
    return {"total": total, "spectral": spectral, "distortion": distortion, "voiced": voiced}


def judge(model: VoiceModel, batches: int = 12) -> dict[str, float]:
    """Mean losses on held-out speakers and noises at a depth of 25 dB."""
    model.eval()
    sums: dict[str, float] = {}
    with torch.no_grad():
        for s, v, tone in validation(batches, BATCH):
            for name, value in losses(model, s, v, tone, torch.full((BATCH,), 25.0)).items():
                sums[name] = sums.get(name, 0) + float(value) / batches
    model.train()
    return sums


class Training:
    """The state of a training: model, running mean, optimiser, steps."""

    def __init__(self, path: Path) -> None:
        self.path = path
        torch.manual_seed(0)
        self.model, self.mean = VoiceModel(), VoiceModel()
        self.optimiser = torch.optim.AdamW(
            self.model.parameters(), LEARNING_RATE, betas=(0.9, 0.98), weight_decay=1e-3
        )
        self.step = 0
        self.mean.load_state_dict(self.model.state_dict())
        if path.exists():
            state = torch.load(path)
            self.model.load_state_dict(state["model"])
            self.mean.load_state_dict(state["mean"])
            self.optimiser.load_state_dict(state["optimiser"])
            self.step = state["step"]

    def save(self) -> None:
        state = {
            "model": self.model.state_dict(),
            "mean": self.mean.state_dict(),
            "optimiser": self.optimiser.state_dict(),
            "step": self.step,
        }
        torch.save(state, self.path.with_suffix(".part"))
        self.path.with_suffix(".part").replace(self.path)

    def advance(self, mixtures: Mixtures, learning_rate: float) -> float:
        s, v, tone = mixtures.batch(self.step, BATCH)
        for group in self.optimiser.param_groups:
            group["lr"] = learning_rate * min(1, (self.step + 1) / WARM_UP_STEPS)
        depth_db = 15 + 25 * torch.rand(BATCH)
        loss = losses(self.model, s, v, tone, depth_db)["total"]
        self.optimiser.zero_grad()
        loss.backward()
        torch.nn.utils.clip_grad_norm_(self.model.parameters(), 0.5)
        self.optimiser.step()
        self.step += 1
        share = min(0.999, self.step / (self.step + 10.0))
        with torch.no_grad():
            for mean, now in zip(self.mean.parameters(), self.model.parameters(), strict=True):
                mean.lerp_(now, 1 - share)
        return float(loss.detach())


def run(hours: float, learning_rate: float) -> None:
    training = Training(data_folder() / "state.pt")
    mixtures = Mixtures(held_out=False, seed=1)
    begun = last = time.monotonic()
    taken: list[float] = []
    while time.monotonic() - begun < hours * 3600:
        taken.append(training.advance(mixtures, learning_rate))
        if time.monotonic() - last < EVERY_S:
            continue
        pace = len(taken) * BATCH * FRAMES * HOP / 48000 / (time.monotonic() - last)
        training.save()
        scores = judge(training.mean)
        row = [training.step, sum(taken) / len(taken), *scores.values(), pace]
        with (data_folder() / "curve.csv").open("a") as out:
            csv.writer(out).writerow(f"{value:.5g}" for value in row)
        print(*(f"{value:.5g}" for value in row), flush=True)
        mixtures.refresh()
        taken, last = [], time.monotonic()
    training.save()


if __name__ == "__main__":
    torch.set_num_threads(2)
    run(float(sys.argv[1]), float(sys.argv[2]) if len(sys.argv) > 2 else LEARNING_RATE)
