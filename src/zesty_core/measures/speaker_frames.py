"""What tells voices apart, kept for every 20 ms: shape of the spectrum, level, side and pitch.

Cepstrum of a mel spectrum: Davis & Mermelstein, IEEE Trans. ASSP 28(4), 1980. Pitch: autocorrelation
divided by that of the window, Boersma, Proc. Inst. Phonetic Sciences 17, 1993.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.pitch import LEAST_PITCH_HZ, MOST_PITCH_HZ
from zesty_core.dsp.spectral import hann
from zesty_core.dsp.transforms import fast_length, rows_of, spectra_of
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.measures.time_series import TimeSeries

HOP_S = 0.02
_WINDOW_S = 0.05
_BANDS, _CEPSTRA = 24, 13
_MEL_HZ = (90.0, 7200.0)
#: Pitch is looked for in what lies below.
_PITCH_BAND_HZ = 4000.0
#: The shortest period that is nearly as good as the best.
_NEAR_BEST = np.float32(0.9)
#: Frames are always transformed in groups of this size, so that rounding cannot depend on blocks.
_TOGETHER = 64
_NOTHING = np.float32(1e-12)

_LEVEL, _SIDE, _PITCH, _VOICED = range(_CEPSTRA, _CEPSTRA + 4)


@dataclass(frozen=True)
class SpeakerFrames:
    """One column for every hop of ``hop_s`` seconds.

    ``cepstra`` has the shape (13, frames); ``level_dbfs``, ``side_db`` (left over right; 0 in mono),
    ``pitch_octaves`` (log2 of Hz) and ``voiced`` (likeness to a period earlier, 0..1) have one value
    each.
    """

    hop_s: float
    cepstra: NDArray[np.float32]
    level_dbfs: NDArray[np.float32]
    side_db: NDArray[np.float32]
    pitch_octaves: NDArray[np.float32]
    voiced: NDArray[np.float32]

    def shifted(self, gain_db: float) -> SpeakerFrames:
        """Frames after a plain gain."""
        return replace(self, level_dbfs=self.level_dbfs + np.float32(gain_db))


class SpeakerFramesMeter:
    """Keeps the frames of everything pushed."""

    def __init__(self, info: SignalInfo) -> None:
        rate = info.sample_rate_hz
        self._rate = rate
        self._hop = max(1, round(HOP_S * rate))
        self._window: NDArray[np.float32] = hann(round(_WINDOW_S * rate)).astype(np.float32)
        self._size = fast_length(2 * len(self._window))
        self._mel = _mel_weights(rate, self._size)
        self._low_bins = min(self._size // 2, round(_PITCH_BAND_HZ * self._size / rate)) + 1
        # The autocorrelation of so few bins is that at this lower rate.
        self._low_rate = rate * 2 * (self._low_bins - 1) / self._size
        self._of_window = self._autocorrelations(self._spectra(self._window[None] * 0 + 1.0))[0]
        half = len(self._window) // 2
        # The first frame is centred on the first sample.
        self._open: Block = np.zeros((info.channels, half), np.float32)
        self._series = TimeSeries(_VOICED + 1, np.float32)
        self._pushed = 0

    def push(self, block: Block) -> None:
        """Take the next block into account."""
        self._pushed += block.shape[1]
        self._open = np.concatenate([self._open, block], axis=1)
        need = (_TOGETHER - 1) * self._hop + len(self._window)
        while self._open.shape[1] >= need:
            self._take(_TOGETHER)

    def finish(self) -> SpeakerFrames:
        """Frames of everything pushed."""
        wanted = -(-self._pushed // self._hop)
        missing = wanted - self._series.hops
        if missing > 0:
            after = (_TOGETHER - 1) * self._hop + len(self._window)
            self._open = np.pad(self._open, ((0, 0), (0, after)))
            self._take(_TOGETHER)
        kept = self._series.between(0, min(wanted, self._series.hops))
        return SpeakerFrames(
            self._hop / self._rate,
            kept[:_CEPSTRA],
            kept[_LEVEL],
            kept[_SIDE],
            kept[_PITCH],
            kept[_VOICED],
        )

    def _take(self, frames: int) -> None:
        starts = np.arange(frames) * self._hop
        cut = np.lib.stride_tricks.sliding_window_view(self._open, len(self._window), axis=1)
        spectra = [self._spectra(channel[starts]) for channel in cut]
        powers = np.array([spectrum.sum(axis=1) for spectrum in spectra]) / self._size
        powers *= np.float32(2.0 / np.square(self._window).sum())
        mean = np.asarray(np.mean(spectra, axis=0, dtype=np.float32))
        columns = np.empty((_VOICED + 1, frames), np.float32)
        columns[:_CEPSTRA] = _cepstra(mean @ self._mel.T).T
        columns[_LEVEL] = 10.0 * np.log10(powers.mean(axis=0) + _NOTHING)
        columns[_SIDE] = 0.0
        if len(spectra) > 1:
            columns[_SIDE] = 10.0 * np.log10((powers[0] + _NOTHING) / (powers[1] + _NOTHING))
        columns[_PITCH], columns[_VOICED] = self._pitch(mean)
        self._series.append(columns)
        self._open = self._open[:, frames * self._hop :]

    def _spectra(self, frames: NDArray[np.float32]) -> NDArray[np.float32]:
        """Power of every bin of windowed frames."""
        padded = np.zeros((len(frames), self._size), np.float32)
        padded[:, : len(self._window)] = frames * self._window
        spectra = spectra_of(padded)
        return np.asarray(np.square(spectra.real) + np.square(spectra.imag))

    def _autocorrelations(self, spectra: NDArray[np.float32]) -> NDArray[np.float32]:
        low = spectra[:, : self._low_bins].astype(np.complex64)
        correlations = rows_of(low, 2 * (self._low_bins - 1))
        return np.asarray(correlations / np.maximum(correlations[:, :1], _NOTHING))

    def _pitch(self, spectra: NDArray[np.float32]) -> tuple[NDArray[np.float32], ...]:
        shortest, longest = (
            round(self._low_rate / freq_hz) for freq_hz in (MOST_PITCH_HZ, LEAST_PITCH_HZ)
        )
        alike = self._autocorrelations(spectra) / np.maximum(self._of_window, np.float32(1e-3))
        alike = alike[:, shortest - 1 : longest + 1]
        inner = alike[:, 1:-1]
        peaks = (inner >= alike[:, :-2]) & (inner >= alike[:, 2:])
        best = np.where(peaks, inner, 0.0).max(axis=1)
        good = peaks & (inner >= _NEAR_BEST * best[:, None])
        lags = shortest + np.argmax(good, axis=1)
        return np.log2(self._low_rate / lags).astype(np.float32), np.clip(best, 0.0, 1.0)


def _mel_weights(rate: int, size: int) -> NDArray[np.float32]:
    """Triangles that overlap by half, equally wide in mel; shape (bands, bins)."""
    ends_mel = 2595.0 * np.log10(1.0 + np.array(_MEL_HZ) / 700.0)
    corners = 700.0 * (10.0 ** (np.linspace(ends_mel[0], ends_mel[1], _BANDS + 2) / 2595.0) - 1.0)
    freqs_hz = np.arange(size // 2 + 1) * rate / size
    low, middle, high = (corners[k : k + _BANDS, None] for k in range(3))
    rising, falling = (freqs_hz - low) / (middle - low), (high - freqs_hz) / (high - middle)
    return np.asarray(np.maximum(0.0, np.minimum(rising, falling)), np.float32)


def _cepstra(bands: NDArray[np.float32]) -> NDArray[np.float32]:
    """Cosine transform (type two) of the logarithms, without the level."""
    k = np.arange(1, _CEPSTRA + 1)[:, None]
    cosines = np.cos(np.pi * k * (np.arange(_BANDS) + 0.5) / _BANDS) * np.sqrt(2.0 / _BANDS)
    return np.asarray(np.log(bands + _NOTHING) @ cosines.T.astype(np.float32))
