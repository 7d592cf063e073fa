"""The voice model as a torch module: spectra in, filters out.

Frames of 32 ms (1536 samples at 48 kHz, Hann) every 10.7 ms. Bins below 5 kHz stay single
(31.25 Hz, partials of a voice are seen); above lie 25 bands. Four inputs per bin: log ratio of the
noisy power to the room tone's, log power relative to the voice's level, and real and imaginary part
of the normalised product with the previous frame, turned back by the bin's own advance (steady
partials give 1). Patches of 12 bins x 3 frames are seen by a small shared encoder; two frames at a
time go into a core of depth-wise convolutions that look both ways; a shared decoder gives every bin
a gain and, below 5 kHz, five complex taps over the neighbouring frames.
"""

import itertools

import torch
from torch import Tensor, nn

WINDOW = 1536
HOP = 512
BINS = WINDOW // 2 + 1
SINGLE = 160


def band_edges() -> list[int]:
    edges, width = [SINGLE], 4.0
    while edges[-1] < BINS:
        edges.append(int(min(BINS, edges[-1] + round(width))))
        width *= 1.13
    return [*edges[:-2], BINS] if BINS - edges[-2] < 10 else edges


EDGES = band_edges()
BANDS = len(EDGES) - 1
LINES = SINGLE + BANDS
PATCH = 4
PATCHES = -(-LINES // PATCH)
PADDED = PATCHES * PATCH
FEATURES = 4
TAPS = 5


def spectra(x: Tensor) -> Tensor:
    """(batch, samples) -> complex (batch, frames, bins); frames do not reach over the ends."""
    window = torch.hann_window(WINDOW, device=x.device)
    return torch.stft(x, WINDOW, HOP, window=window, center=False, return_complex=True).mT


def waveform(spectrum: Tensor) -> Tensor:
    """Overlap-add of ``spectra``; exact where three frames overlap."""
    window = torch.hann_window(WINDOW, device=spectrum.device)
    frames = torch.fft.irfft(spectrum, n=WINDOW) * window
    thirds = frames.unflatten(2, (3, HOP))
    out = nn.functional.pad(thirds[:, :, 0], (0, 0, 0, 2))
    out = out + nn.functional.pad(thirds[:, :, 1], (0, 0, 1, 1))
    out = (out + nn.functional.pad(thirds[:, :, 2], (0, 0, 2, 0))).flatten(1)
    return out / 1.125  # sum of squared Hann windows at a third of their length


class Bands(nn.Module):
    """Between bins and lines (single bins, then band means)."""

    def __init__(self) -> None:
        super().__init__()
        mean = torch.zeros(BINS - SINGLE, BANDS)
        for k in range(BANDS):
            low, high = EDGES[k] - SINGLE, EDGES[k + 1] - SINGLE
            mean[low:high, k] = 1 / (high - low)
        centres = torch.tensor(
            [SINGLE - 1.0] + [(a + b - 1) / 2 for a, b in itertools.pairwise(EDGES)]
        )
        at = torch.arange(SINGLE, BINS, dtype=torch.float32)
        right = torch.searchsorted(centres, at).clamp(1, BANDS)
        share = ((at - centres[right - 1]) / (centres[right] - centres[right - 1])).clamp(0, 1)
        spread = torch.zeros(BANDS + 1, BINS - SINGLE)
        column = torch.arange(BINS - SINGLE)
        spread[right - 1, column] = 1 - share
        spread[right, column] += share
        self.register_buffer("mean", mean)
        self.register_buffer("spread", spread)

    def lines(self, power: Tensor) -> Tensor:
        return torch.cat([power[..., :SINGLE], power[..., SINGLE:] @ self.mean], -1)

    def bins(self, gain: Tensor) -> Tensor:
        return torch.cat([gain[..., :SINGLE], gain[..., SINGLE - 1 : LINES] @ self.spread], -1)


def features(spectrum: Tensor, tone: Tensor, level: Tensor, bands: Bands) -> Tensor:
    """Inputs (batch, frames, PADDED, 4).

    ``tone`` is the power (batch, bins) of the room tone, ``level`` (batch,) the mean power per bin
    of the voice in loud frames.
    """
    power = spectrum.abs().square()
    lines = bands.lines(power)
    over_tone = torch.log10((lines + 1e-12) / (bands.lines(tone)[:, None] + 1e-12)).clamp(-1.5, 5)
    relative = (torch.log10(lines / level[:, None, None] + 1e-6) + 2).clamp(-4, 4)
    planes = torch.view_as_real(spectrum)[..., :SINGLE, :].movedim(-1, 0).contiguous()
    real, imag = planes
    before_real, before_imag = torch.cat([planes[:, :, :1], planes[:, :, :-1]], 2)
    root = torch.rsqrt(real * real + imag * imag + 1e-20)
    root = root * torch.cat([root[:, :1], root[:, :-1]], 1)
    cosine = (real * before_real + imag * before_imag) * root
    sine = (imag * before_real - real * before_imag) * root
    # HOP / WINDOW is a third of a turn per bin, exactly
    turn = 2 * torch.pi * (torch.arange(SINGLE) % 3).float() / 3
    product = torch.stack(
        [cosine * turn.cos() + sine * turn.sin(), sine * turn.cos() - cosine * turn.sin()], -1
    )
    steady = nn.functional.pad(product, (0, 0, 0, BANDS))
    stacked = torch.cat([over_tone[..., None], relative[..., None], steady], -1)
    return nn.functional.pad(stacked.flatten(2), (0, (PADDED - LINES) * FEATURES)).unflatten(
        2, (PADDED, FEATURES)
    )


def voice_level(spectrum: Tensor, tone: Tensor) -> Tensor:
    """Mean power per bin (125 Hz to 5.6 kHz) of the loud frames, the room tone taken off."""
    power = (spectrum.real**2 + spectrum.imag**2)[..., 4 : SINGLE + 20]
    over = power.sum(-1) - tone[:, None, 4 : SINGLE + 20].sum(-1)
    return torch.quantile(over.clamp_min(1e-12), 0.92, dim=1) / (SINGLE + 16)


class Block(nn.Module):
    """Pointwise, depth-wise over time (both ways), pointwise; added to its input."""

    def __init__(self, width: int, dilation: int, taps: int = 7) -> None:
        super().__init__()
        self.scale = nn.Parameter(torch.ones(width))
        self.into = nn.Linear(width, width)
        self.over_time = nn.Conv1d(
            width, width, taps, padding=dilation * (taps // 2), dilation=dilation, groups=width
        )
        self.out = nn.Linear(width, width)
        nn.init.normal_(self.out.weight, std=0.3 / width**0.5)

    def forward(self, u: Tensor) -> Tensor:
        v = u * torch.rsqrt((u * u).mean(-1, keepdim=True) + 1e-3) * self.scale
        v = nn.functional.leaky_relu(self.into(v), 0.1)
        v = nn.functional.leaky_relu(self.over_time(v.mT).mT, 0.1)
        return u + self.out(v)


class VoiceModel(nn.Module):
    def __init__(
        self,
        width: int = 256,
        dilations: tuple[int, ...] = (1, 2, 4, 8, 16, 1, 2, 4),
        seen: int = 32,
        passed: int = 12,
        decoded: int = 32,
    ) -> None:
        super().__init__()
        self.bands = Bands()
        self.passed = passed
        self.see = nn.Linear(3 * PATCH * 3 * FEATURES, seen)
        self.place = nn.Parameter(0.1 * torch.randn(PATCHES, seen))
        self.see_again = nn.Linear(seen, seen)
        self.hand_on = nn.Linear(seen, passed)
        self.gather = nn.Linear(2 * PATCHES * passed, width)
        self.core = nn.ModuleList(Block(width, dilation) for dilation in dilations)
        self.spread = nn.Linear(width, 2 * PATCHES * passed)
        self.decode = nn.Linear(seen + passed, 48)
        self.decode_again = nn.Linear(48, decoded)
        self.place_out = nn.Parameter(torch.zeros(PATCHES, decoded))
        self.filters = nn.Linear(decoded, PATCH * (1 + 2 * TAPS))
        nn.init.normal_(self.filters.weight, std=0.02)
        nn.init.constant_(self.filters.bias, 0.0)
        self.voice = nn.Linear(width, 2)

    def forward(self, inputs: Tensor) -> tuple[Tensor, Tensor, Tensor]:
        """Gains (b, t, LINES) in 0..1, taps (2, b, t, TAPS, SINGLE), voice logits (b, t)."""
        act = nn.functional.leaky_relu
        batch, frames = inputs.shape[:2]
        padded = nn.functional.pad(inputs.flatten(2), (PATCH * FEATURES,) * 2)
        padded = nn.functional.pad(padded, (0, 0, 1, 1))
        wide = padded.unfold(2, 3 * PATCH * FEATURES, PATCH * FEATURES)  # (b, t+2, patches, 48)
        patches = torch.cat([wide[:, k : k + frames] for k in range(3)], -1)
        h = act(self.see(patches) + self.place, 0.1)
        h = act(self.see_again(h), 0.1)
        u = self.gather(act(self.hand_on(h), 0.1).reshape(batch, frames // 2, -1))
        for block in self.core:
            u = block(u)
        voice = self.voice(u).reshape(batch, frames)
        o = act(self.spread(u), 0.1).reshape(batch, frames, PATCHES, self.passed)
        q = act(self.decode(torch.cat([h, o], -1)), 0.1)
        q = act(self.decode_again(q) + self.place_out, 0.1)
        z = self.filters(q).reshape(batch, frames, PATCHES, PATCH, 1 + 2 * TAPS)
        z = z.reshape(batch, frames, PADDED, 1 + 2 * TAPS)
        gain = torch.sigmoid(z[:, :, :LINES, 0])
        taps = z[:, :, :SINGLE, 1:].reshape(batch, frames, SINGLE, 2, TAPS)
        taps = taps.permute(3, 0, 1, 4, 2).contiguous()
        return gain, taps, voice

    def enhance(self, spectrum: Tensor, gain: Tensor, taps: Tensor) -> Tensor:
        """The voice's spectrum: the noisy one filtered over five frames, times the gain."""
        planes = torch.view_as_real(spectrum).movedim(-1, 0).contiguous()
        low_real, low_imag = nn.functional.pad(planes[..., :SINGLE], (0, 0, 2, 2))
        frames = spectrum.shape[1]
        real, imag = planes[..., :SINGLE]
        for k in range(TAPS):
            a, b = low_real[:, k : k + frames], low_imag[:, k : k + frames]
            c, d = taps[0, ..., k, :], taps[1, ..., k, :]
            real, imag = real + a * c - b * d, imag + a * d + b * c
        bins = self.bands.bins(gain)
        return torch.complex(
            torch.cat([real, planes[0, ..., SINGLE:]], -1) * bins,
            torch.cat([imag, planes[1, ..., SINGLE:]], -1) * bins,
        )
