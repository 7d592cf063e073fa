"""Building blocks of the pictures that steps draw of their work on a passage.

Plain JSON values; levels in dBFS or dB, times in seconds from the passage's start.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.spectral import hann
from zesty_core.dsp.transforms import spectra_of
from zesty_core.foundation.signal import Block
from zesty_core.measures.level_histogram import LOWEST_DBFS, LevelHistogram, levels_db
from zesty_core.measures.spectrum_points import curve_frequencies, curve_of_sound

if TYPE_CHECKING:
    from zesty_core.steps.base import Facts

_COLUMNS = 300
_QUIET_DBFS = -75.0
#: Levels at which curves are drawn.
CURVE_DBFS = np.arange(-80.0, 0.1, 1.0)


@dataclass(frozen=True)
class PicturedPassage:
    """A passage before and after a step, shapes (channels, samples).

    The tones are the room tone as it arrives and as it leaves, where there is some.
    """

    facts: Facts
    before: Block
    after: Block
    tone_before: Block | None
    tone_after: Block | None
    sample_rate_hz: int

    @cached_property
    def freqs_hz(self) -> NDArray[np.float64]:
        """Frequencies of every curve over frequency."""
        return curve_frequencies(self.sample_rate_hz)


def spectra(passage: PicturedPassage) -> dict[str, Any]:
    """Spectra before and after."""
    rate, freqs_hz = passage.sample_rate_hz, passage.freqs_hz
    return {
        "freqs_hz": rounded(freqs_hz),
        "before": curve_of_sound(passage.before, rate, freqs_hz),
        "after": curve_of_sound(passage.after, rate, freqs_hz),
    }


def level_shares(passage: PicturedPassage) -> dict[str, Any]:
    """How often each level occurs, before and after."""
    return {
        "lowest_dbfs": LOWEST_DBFS,
        "before": histogram(passage.before, passage.sample_rate_hz),
        "after": histogram(passage.after, passage.sample_rate_hz),
    }


def histogram(sound: Block, rate: int) -> list[float]:
    """Share of time at each level, from ``LOWEST_DBFS`` in steps of 1 dB."""
    counted = LevelHistogram(rate)
    counted.push(sound)
    return counted.shares()


def work_over_time(before: Block, after: Block, peaks: bool = False) -> list[float | None]:
    """Change of level in each of some hundred stretches; None where it was too quiet to tell."""
    width = max(1, -(-before.shape[1] // _COLUMNS))
    if peaks:
        was, now = _peaks_db(before, width), _peaks_db(after, width)
    else:
        was, now = levels_db(before, width), levels_db(after, width)
    return [
        None if a < _QUIET_DBFS else round(float(b - a), 2) for a, b in zip(was, now, strict=True)
    ]


def _peaks_db(sound: Block, width: int) -> NDArray[np.float64]:
    whole = sound.shape[1] // width
    cut = np.abs(sound[:, : whole * width]).reshape(len(sound), whole, width)
    return np.asarray(20.0 * np.log10(np.maximum(cut.max(axis=(0, 2)), 1e-7)), np.float64)


def work_in_band(
    before: Block, after: Block, rate: int, low_hz: float, high_hz: float
) -> list[float | None]:
    """Change of level within a band, over time."""
    width = max(256, -(-before.shape[1] // _COLUMNS))
    was, now = (_band_levels_db(s, rate, width, low_hz, high_hz) for s in (before, after))
    return [
        None if a < _QUIET_DBFS else round(float(b - a), 2) for a, b in zip(was, now, strict=True)
    ]


def _band_levels_db(
    sound: Block, rate: int, width: int, low_hz: float, high_hz: float
) -> NDArray[np.float64]:
    whole = sound.shape[1] // width
    cut = sound[:, : whole * width].reshape(len(sound), whole, width) * hann(width)
    power = np.square(np.abs(spectra_of(cut))).sum(axis=0)
    low, high = (round(f * width / rate) for f in (low_hz, high_hz))
    band = power[:, max(1, low) : max(low + 1, high)].sum(axis=1)
    scale = 2.0 / (width * float(np.square(hann(width)).sum()) * len(sound))
    return np.asarray(10.0 * np.log10(np.maximum(band * scale, 1e-15)))


def rounded(values: NDArray[np.floating[Any]], decimals: int = 2) -> list[Any]:
    """As a list of short numbers."""
    return [round(float(v), decimals) for v in values]
