"""Average spectrum: Welch's method with Hann windows, and third-octave bands.

Windows overlap by half. In recordings so long that it makes no difference they stand side by side,
and from ten minutes on gaps between them, longer than a window, are left out.

Welch, IEEE Trans. Audio Electroacoust. 15(2), 1967; bands by IEC 61260-1, base ten. Powers are
scaled so that they add up to the mean square of the sound.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.biquad import Sections, response_db
from zesty_core.dsp.spectral import cut_frames, hann
from zesty_core.dsp.transforms import fast_length, spectra_of
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.foundation.units import level_or_none, power_to_db
from zesty_core.measures.balance import HISS_HZ, RUMBLE_HZ, VOICE_HZ, Balance, balance_of
from zesty_core.runtime.kernel import kernel

_WINDOW_S = 4096 / 48_000
#: Frames are always transformed in groups of this size, so that rounding cannot depend on blocks.
_TOGETHER = 32
#: From this length on, thousands of windows are averaged anyway.
_LONG_S = 120.0
_VERY_LONG_S = 600.0
_BALANCE_HZ = (RUMBLE_HZ, VOICE_HZ, HISS_HZ)
#: No round number: what repeats is then met everywhere, not at the same few places again and again.
_FAR_WINDOWS = 2.37
#: Of an offset's power, in the first bin and, from either side of it, in the second.
_OFFSET_SHARES = np.array([2.0, 1.0]) / 3.0
_FIRST_BAND, _LAST_BAND = -16, 13  # 25 Hz to 20 kHz


@dataclass(frozen=True)
class Spectrum:
    """Mean power per bin; ``power[k]`` belongs to ``k * bin_hz``."""

    bin_hz: float
    power: NDArray[np.float64]

    def band_power(self, low_hz: float, high_hz: float) -> float:
        """Mean square of what lies between two frequencies; bins at the edges count in part."""
        below = np.concatenate([[0.0], np.cumsum(self.power)])
        edges_hz = (np.arange(len(below)) - 0.5) * self.bin_hz
        low, high = np.interp([low_hz, high_hz], edges_hz, below)
        return max(0.0, float(high - low))

    def power_behind(self, sections: Sections, sample_rate_hz: int) -> float:
        """Mean square of what a filter lets through."""
        freqs_hz = np.arange(len(self.power), dtype=np.float64) * self.bin_hz
        through = 10.0 ** (response_db(sections, freqs_hz, sample_rate_hz) / 10.0)
        return float((self.power * through).sum())

    def third_octaves(self) -> list[tuple[float, float | None]]:
        """Middle frequency and level in dBFS of each third-octave band. IEC 61260-1, base ten."""
        top_hz = (len(self.power) - 1) * self.bin_hz
        bands = []
        for index in range(_FIRST_BAND, _LAST_BAND + 1):
            middle_hz = 1000.0 * 10.0 ** (index / 10.0)
            low_hz, high_hz = middle_hz * 10.0**-0.05, middle_hz * 10.0**0.05
            if high_hz > top_hz:
                break
            level = level_or_none(power_to_db(self.band_power(low_hz, high_hz)))
            bands.append((round(middle_hz, 1), level))
        return bands

    def shifted(self, gain_db: float) -> Spectrum:
        """Spectrum after a plain gain."""
        return Spectrum(self.bin_hz, self.power * 10.0 ** (gain_db / 10.0))

    def without_offset(self, mean_square: float) -> Spectrum:
        """Spectrum after an offset of this power was taken away; a Hann window spreads it over the
        first two bins."""
        power = self.power.copy()
        power[:2] = np.maximum(power[:2] - mean_square * _OFFSET_SHARES, 0.0)
        return Spectrum(self.bin_hz, power)


@kernel
def _add_frames(parts: NDArray[np.float32], power: NDArray[np.float64]) -> None:
    """Add the squared magnitude of every frame of ``parts`` (frames, bins of re/im)."""
    for t in range(parts.shape[0]):
        row = parts[t]
        for k in range(power.shape[0]):
            re, im = np.float64(row[2 * k]), np.float64(row[2 * k + 1])
            power[k] += re * re + im * im


def _distance_windows(duration_s: float) -> float:
    """From the start of one window to that of the next."""
    if duration_s < _LONG_S:
        return 0.5
    return 1.0 if duration_s < _VERY_LONG_S else _FAR_WINDOWS


class SpectrumMeter:
    """Average over all frames and channels."""

    def __init__(self, info: SignalInfo) -> None:
        sample_rate_hz, channels = info.sample_rate_hz, info.channels
        size = fast_length(round(_WINDOW_S * sample_rate_hz))
        self._size = size + size % 2
        self._hop = round(self._size * _distance_windows(info.duration_s))
        self._bin_hz = sample_rate_hz / self._size
        self._window = hann(self._size)
        # Samples from the next window's first on, and how many are still to be passed over before it.
        self._open, self._ahead = np.zeros((channels, 0), np.float32), 0
        # Windows that wait until they are enough to be transformed together.
        self._cut = np.empty((channels, _TOGETHER, self._size), np.float32)
        self._waiting = 0
        self._power = np.zeros(self._size // 2 + 1)
        self._frames = 0
        self._edges = [_bins(band, self._bin_hz, len(self._power)) for band in _BALANCE_HZ]
        self._bands: list[NDArray[np.float64]] = []

    def push(self, block: Block) -> None:
        """Take the next block into account."""
        held, length = self._open, block.shape[1]
        # Where the next window starts in the block; before it where samples are held.
        start = self._ahead - held.shape[1]
        while start + self._size <= length:
            if start < 0:
                begun = np.concatenate([held[:, start:], block[:, : start + self._size]], axis=1)
                start += self._hop * self._take(begun)
            else:
                start += self._hop * self._take(block[:, start:])
        rest = block[:, max(start, 0) :]
        self._open = np.concatenate([held[:, start:], rest], axis=1) if start < 0 else rest.copy()
        self._ahead = max(0, start - length)

    def _take(self, samples: Block) -> int:
        """Cut the windows that are whole, as many as there is room for; the answer is how many."""
        whole: int = (samples.shape[1] - self._size) // self._hop + 1
        stop = min(self._waiting + whole, _TOGETHER)
        taken = stop - self._waiting
        for channel, cut in zip(samples, self._cut, strict=True):
            frames = cut[self._waiting : stop]
            cut_frames(np.ascontiguousarray(channel), self._window, self._hop, 0, frames)
        self._waiting = stop
        if stop == _TOGETHER:
            self._transform()
        return taken

    def _transform(self) -> None:
        """Add the power of all windows that wait."""
        bands = np.zeros((len(self._edges), self._waiting))
        for cut in self._cut[:, : self._waiting]:
            parts = spectra_of(cut).view(np.float32)
            _add_frames(parts, self._power)
            for k, (low, high) in enumerate(self._edges):
                bands[k] += np.square(parts[:, 2 * low : 2 * high]).sum(axis=1, dtype=np.float64)
        self._bands.append(bands)
        self._frames += self._waiting
        self._waiting = 0

    def finish(self) -> Spectrum | None:
        """Spectrum of everything pushed; None when there was nothing."""
        left = self._open.shape[1]
        if self._frames + self._waiting == 0:
            if left == 0:
                return None
            # Shorter than a window: repeated, which keeps its level.
            self._take(np.tile(self._open, (1, -(-self._size // left)))[:, : self._size])
        self._transform()
        scale = 2.0 / (self._size * float(np.square(self._window, dtype=np.float64).sum()))
        power = self._power * (scale / (self._frames * len(self._open)))
        power[0] /= 2.0
        power[-1] /= 2.0
        return Spectrum(self._bin_hz, power)

    def balance(self) -> Balance | None:
        """Sibilance and rumble of everything pushed; call after ``finish``."""
        return balance_of(np.concatenate(self._bands, axis=1)) if self._bands else None


def _bins(band_hz: tuple[float, float], bin_hz: float, bins: int) -> tuple[int, int]:
    low, high = (min(bins, round(edge / bin_hz)) for edge in band_hz)
    return low, high


def level_between(spectrum: Spectrum, edges_hz: Sequence[float]) -> list[float]:
    """Level in dBFS of each band between neighbouring edges; minus infinity where empty.

    Parameters
    ----------
    spectrum : Spectrum
        Power per bin.
    edges_hz : sequence of float
        Rising.

    Returns
    -------
    levels_dbfs : list of float
        One fewer than there are edges.
    """
    bands = itertools.pairwise(edges_hz)
    return [power_to_db(spectrum.band_power(low, high)) for low, high in bands]
