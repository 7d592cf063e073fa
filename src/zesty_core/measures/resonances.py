"""Narrow stretches of a spectrum that stand out over what surrounds them: a room's or a
microphone's own tones.

Common practice, no published source: a smoothed peak is compared with the average of its octave.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zesty_core.measures.spectrum import Spectrum

_LOWEST_HZ, _HIGHEST_HZ = 100.0, 10_000.0
_STEPS_PER_OCT = 24
_LEAST_DB = 1.5
_PEAK_OCT = 1.0 / 6.0
_APART_OCT = 0.5


@dataclass(frozen=True)
class Resonance:
    """A peak and how far it stands over its octave."""

    freq_hz: float
    over_db: float

    def as_json(self) -> dict[str, float]:
        """JSON object."""
        return {"freq_hz": round(self.freq_hz, 1), "over_db": round(self.over_db, 1)}


def resonances(spectrum: Spectrum, most: int = 3) -> list[Resonance]:
    """The ``most`` peaks that stand out furthest, lowest frequency first."""
    top_hz = min(_HIGHEST_HZ, 0.4 * (len(spectrum.power) - 1) * spectrum.bin_hz * 2)
    count = int(_STEPS_PER_OCT * np.log2(top_hz / _LOWEST_HZ))
    if count < _STEPS_PER_OCT:
        return []
    freqs_hz = _LOWEST_HZ * 2.0 ** (np.arange(count) / _STEPS_PER_OCT)
    narrow, wide = (_densities_db(spectrum, freqs_hz, octaves) for octaves in (_PEAK_OCT, 1.0))
    over = narrow - wide
    peaks = [
        k
        for k in range(1, count - 1)
        if over[k] >= _LEAST_DB and over[k] >= over[k - 1] and over[k] > over[k + 1]
    ]
    taken: list[int] = []
    for k in sorted(peaks, key=lambda k: -over[k]):
        if all(abs(k - other) >= _APART_OCT * _STEPS_PER_OCT for other in taken):
            taken.append(k)
    return [Resonance(float(freqs_hz[k]), float(over[k])) for k in sorted(taken[:most])]


def _densities_db(spectrum: Spectrum, freqs_hz: np.ndarray, octaves: float) -> np.ndarray:
    """Power per octave around each frequency, in dB."""
    half = 2.0 ** (octaves / 2.0)
    below = np.concatenate([[0.0], np.cumsum(spectrum.power)])
    edges_hz = (np.arange(len(below)) - 0.5) * spectrum.bin_hz
    power = np.interp(freqs_hz * half, edges_hz, below) - np.interp(
        freqs_hz / half, edges_hz, below
    )
    return np.asarray(10.0 * np.log10(np.maximum(power, 1e-18) / octaves))
