"""Mains hum: how far the lines of 50 or 60 Hz and their harmonics stand above their neighbours.

Looked for in the quietest half seconds, where no voice covers it, on the means over milliseconds
(about 1 kHz of rate, enough for nine harmonics). Common practice, no published source.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_core.foundation.units import power_to_db
from zesty_core.measures.hops import SAMPLES, samples_per_ms
from zesty_core.runtime.kernel import kernel

_FRAME = 512  # hops of a millisecond
_FRAME_HOP = _FRAME // 2
_KEPT = 48
_LEAST_FRAMES = 3
_FAMILIES_HZ = (50.0, 60.0)
_HIGHEST_HZ = 450.0
#: Bins on either side that belong to a line under a Hann window, and those that are neighbours.
_LINE, _NEAR = 2, 9
_STANDS_OUT = 4.0
#: A family with fewer lines, or less in all, may be chance.
_LEAST_LINES, _LEAST_ABOVE_DB = 2, 9.0
_SILENT_POWER = 1e-16
#: Frames further over the quietest one hold voice.
_STEADY = 10.0 ** (4.0 / 10.0)


@dataclass(frozen=True)
class Hum:
    """A family of mains lines."""

    base_hz: int
    level_dbfs: float
    above_db: float
    lines_hz: tuple[int, ...]


@kernel
def _powers(line: NDArray[np.float64], out: NDArray[np.float64]) -> None:
    """Power of each frame around its mean."""
    for t in range(out.shape[0]):
        frame = line[t * _FRAME_HOP : t * _FRAME_HOP + _FRAME]
        total, around = 0.0, 0.0
        for n in range(_FRAME):
            total += frame[n]
        mean = total / _FRAME
        for n in range(_FRAME):
            around += (frame[n] - mean) * (frame[n] - mean)
        out[t] = around / _FRAME


class HumMeter:
    """Keeps the spectra of the quietest half seconds."""

    def __init__(self, sample_rate_hz: int) -> None:
        self._hop_samples = samples_per_ms(sample_rate_hz)
        self._rate = sample_rate_hz / self._hop_samples
        self._open = np.zeros(0)
        self._window = 0.5 - 0.5 * np.cos(2 * np.pi * np.arange(_FRAME) / _FRAME)
        self._kept: list[tuple[float, NDArray[np.float64]]] = []

    def push_hops(self, hops: NDArray[np.float64]) -> None:
        """Take the sums of the next milliseconds into account."""
        means = hops[..., SAMPLES].mean(axis=0) / self._hop_samples
        line = np.concatenate([self._open, means])
        count = max(0, (len(line) - _FRAME) // _FRAME_HOP + 1)
        power = np.empty(count)
        _powers(line, power)
        for index in np.flatnonzero(power < self._most):
            start = index * _FRAME_HOP
            self._look(line[start : start + _FRAME], float(power[index]))
        self._open = line[count * _FRAME_HOP :]

    @property
    def _most(self) -> float:
        """Power that a frame to be kept lies below."""
        return self._kept[-1][0] if len(self._kept) == _KEPT else math.inf

    def _look(self, frame: NDArray[np.float64], power: float) -> None:
        if not _SILENT_POWER <= power < self._most:
            return
        if len(self._kept) == _KEPT:
            self._kept.pop()
        spectrum = np.square(np.abs(np.fft.rfft((frame - frame.mean()) * self._window)))
        self._kept.append((power, spectrum))
        self._kept.sort(key=lambda entry: entry[0])

    def finish(self) -> Hum | None:
        """The louder family; None when neither stands out."""
        quiet = [s for power, s in self._kept if power <= _STEADY * self._kept[0][0]]
        if len(quiet) < _LEAST_FRAMES:
            return None
        mean = np.mean(quiet, axis=0)
        mean *= 2.0 / (_FRAME * float(np.square(self._window).sum()))
        freq_hz = np.arange(len(mean)) * self._rate / _FRAME
        # The mean over a millisecond turns higher lines down.
        mean /= np.sinc(freq_hz / self._rate) ** 2
        families = [self._family(mean, base_hz) for base_hz in _FAMILIES_HZ]
        found = [hum for hum in families if hum]
        return max(found, key=lambda hum: hum.level_dbfs) if found else None

    def _family(self, mean: NDArray[np.float64], base_hz: float) -> Hum | None:
        standing: list[tuple[int, float, float]] = []
        for order in range(1, int(_HIGHEST_HZ / base_hz) + 1):
            middle = round(order * base_hz * _FRAME / self._rate)
            line = float(mean[middle - _LINE : middle + _LINE + 1].sum())
            sides = (mean[middle - _NEAR : middle - _LINE], mean[middle + _LINE + 1 :][: _NEAR - 2])
            near = float(np.median(np.concatenate(sides))) * (2 * _LINE + 1)
            if line > _STANDS_OUT * near:
                standing.append((round(order * base_hz), line, near))
        if len(standing) < _LEAST_LINES or standing[0][0] > 2 * base_hz:
            return None
        lines, near = (sum(entry[i] for entry in standing) for i in (1, 2))
        above_db = power_to_db(lines / max(near, 1e-30))
        if above_db < _LEAST_ABOVE_DB:
            return None
        return Hum(
            round(base_hz),
            power_to_db(lines - near),
            above_db,
            tuple(entry[0] for entry in standing),
        )
