"""How much a noise warbles after processing: single tones that come and go ("musical noise").

The kurtosis of the power in each bin over time, after over before: noise that is only turned down
keeps its own (ratio 1), isolated peaks left standing raise it. After Uemura et al., IWAENC 2008
(from memory); a ratio above about 1.5 begins to be heard (own trials).
"""

from __future__ import annotations

import numpy as np

from zesty_core.dsp.spectral import frame_spectra, hann, window_samples
from zesty_core.foundation.signal import Block

#: Fewer frames tell nothing.
_LEAST_FRAMES = 20
#: What lies further under the loudest bin is not heard beside it: rests of a lossy file, rounding.
_HEARD = 1e-7


def warble_ratio(before: Block, after: Block, sample_rate_hz: int) -> float | None:
    """Ratio for two aligned sounds of the same noise; None when too short or silent."""
    values = [_peakiness(sound, sample_rate_hz) for sound in (before, after)]
    if None in values or not values[0]:
        return None
    return float((values[1] or 0.0) / values[0])


def _peakiness(sound: Block, rate: int) -> float | None:
    shape = hann(window_samples(rate))
    mono = np.ascontiguousarray(sound.mean(axis=0), dtype=np.float32)
    power = np.abs(frame_spectra(mono, shape)).astype(np.float64) ** 2
    if len(power) < _LEAST_FRAMES:
        return None
    mean = power.mean(axis=0)
    heard = mean > mean.max() * _HEARD
    if not heard.any() or mean.max() <= 0.0:
        return None
    return float(np.mean((power[:, heard] ** 2).mean(axis=0) / mean[heard] ** 2))
