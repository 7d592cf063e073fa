"""What there is to see of a stretch of sound beside another: loudness over time, levels, spectrum.

Loudness by ITU-R BS.1770-5 and EBU Tech 3341: momentary over 0.4 s, short-term over 3 s; each value
belongs to the middle of its window.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from zesty_core.foundation.signal import BLOCK_SAMPLES, SignalInfo, Source
from zesty_core.measures.level_histogram import LOWEST_DBFS, LevelHistogram
from zesty_core.measures.loudness import LoudnessMeter
from zesty_core.measures.spectrum import SpectrumMeter
from zesty_core.measures.spectrum_points import curve_frequencies, curve_of
from zesty_core.runtime.pipeline import Pipeline

#: Quieter than this the curves say nothing.
_LOWEST_LUFS = -70.0


def time_series_of(source: Source, start: int, stop: int, points: int) -> dict[str, Any]:
    """Samples ``start`` to ``stop`` as plain JSON values, with at most ``points`` in time.

    ``momentary_lufs`` and ``short_term_lufs`` have one entry each ``step_s`` from ``start_s`` on,
    None where it is too quiet or the window is not full.
    """
    rate, channels = source.info.sample_rate_hz, source.info.channels
    loudness = LoudnessMeter(rate, channels)
    histogram = LevelHistogram(rate)
    spectrum = SpectrumMeter(SignalInfo(rate, channels, stop - start))
    line = Pipeline(
        source.read(at, min(stop, at + BLOCK_SAMPLES)) for at in range(start, stop, BLOCK_SAMPLES)
    )
    for push in (loudness.push, histogram.push, spectrum.push):
        line.past(push)
    line.run()
    freqs_hz = curve_frequencies(rate)
    found = spectrum.finish()
    step_s, momentary, short_term = loudness.time_series(points)
    return {
        "start_s": start / rate,
        "end_s": stop / rate,
        "step_s": step_s,
        "momentary_lufs": _shown(momentary),
        "short_term_lufs": _shown(short_term),
        "integrated_lufs": _rounded(loudness.integrated_lufs()),
        "lowest_dbfs": LOWEST_DBFS,
        "levels": histogram.shares(),
        "freqs_hz": [round(float(f), 2) for f in freqs_hz],
        "spectrum_dbfs": curve_of(found, freqs_hz) if found else None,
    }


def _shown(values: np.ndarray) -> list[float | None]:
    return [round(float(v), 1) if v > _LOWEST_LUFS else None for v in values]


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 2)
