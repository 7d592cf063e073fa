"""Figures of noise reduction: its effect on the room tone, and spectra from short-time frames."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.spectral import hann, window_samples
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.measures.spectrum import Spectrum, SpectrumMeter
from zesty_core.measures.warble import warble_ratio

_OCTAVES_HZ = (63, 125, 250, 500, 1000, 2000, 4000, 8000, 16_000)
_PARTS_OF_BIN = 16


def room_tone_figures(before: Block, after: Block, rate: int) -> dict[str, Any]:
    """Change of the room tone's level, whole and by octave, and whether it warbles."""
    spectra = []
    for sound in (before, after):
        meter = SpectrumMeter(SignalInfo(rate, *sound.shape))
        meter.push(sound)
        spectra.append(meter.finish())
    old, new = spectra
    if old is None or new is None:
        return {}
    bands = [
        {"freq_hz": freq_hz, "change_db": round(change, 1)}
        for freq_hz in _OCTAVES_HZ
        if freq_hz * math.sqrt(2.0) <= rate / 2
        and (change := _change_db(old, new, freq_hz / math.sqrt(2.0), freq_hz * math.sqrt(2.0)))
        is not None
    ]
    whole = _change_db(old, new, 0.0, rate / 2)
    ratio = warble_ratio(before, after, rate)
    return {
        "room_tone_change_db": None if whole is None else round(whole, 1),
        "room_tone_change_by_band": bands,
        "warble": None if ratio is None else round(ratio, 2),
    }


def _change_db(old: Spectrum, new: Spectrum, low_hz: float, high_hz: float) -> float | None:
    before, after = old.band_power(low_hz, high_hz), new.band_power(low_hz, high_hz)
    return 10.0 * math.log10(after / before) if before > 0.0 and after > 0.0 else None


def spectrum_of_frames(power: NDArray[np.float64], sample_rate_hz: int) -> Spectrum:
    """Mean square per bin from the power of frames under a Hann window; the bins of frames are wide
    and are parted, so that its curve compares with those of other spectra."""
    window = window_samples(sample_rate_hz)
    scale = 2.0 / (window * float(np.square(hann(window)).sum()) * _PARTS_OF_BIN)
    # A bin reaches half its width to either side of its frequency.
    parted = np.repeat(power * scale, _PARTS_OF_BIN)[_PARTS_OF_BIN // 2 :]
    return Spectrum(sample_rate_hz / window / _PARTS_OF_BIN, parted)
