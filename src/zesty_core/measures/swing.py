"""How far a sound falls from its voice: what tells somebody who never pauses from a steady noise.

Common practice, no published source. Between its syllables a voice falls by far more than any steady
noise does by chance.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.foundation.units import power_to_db
from zesty_core.measures.found_room import DIGITAL_SILENCE
from zesty_core.measures.hops import SAMPLES, SQUARES
from zesty_core.measures.time_series import TimeSeries

_MS_PER_STRETCH = 50
_LOW_QUANTILE = 0.05
#: Measured on voices that never pause, 5 dB over the noise: 5.8 dB and more; on rumble: up to 4.9.
_SPEECH_DB = 5.5


class SwingMeter:
    """Levels of stretches of 50 ms, from sums over milliseconds of ``hop_samples``."""

    def __init__(self, hop_samples: int, channels: int) -> None:
        self._samples = hop_samples * _MS_PER_STRETCH
        self._open = np.zeros((channels, 0, SAMPLES + 1))
        self._power = TimeSeries(1, np.float32)

    def push_hops(self, hops: NDArray[np.float64]) -> None:
        """Take the sums of the next milliseconds into account."""
        fine = np.concatenate([self._open, hops[..., : SAMPLES + 1]], axis=1)
        whole = fine.shape[1] // _MS_PER_STRETCH
        used = fine[:, : whole * _MS_PER_STRETCH]
        self._open = fine[:, whole * _MS_PER_STRETCH :]
        sums = used.reshape(len(fine), whole, _MS_PER_STRETCH, SAMPLES + 1).sum(axis=2)
        sums /= self._samples
        # Without an offset, which would hide how little is there.
        around = np.maximum(sums[..., SQUARES] - sums[..., SAMPLES] ** 2, 0.0)
        self._power.append(around.mean(axis=0, dtype=np.float64)[None].astype(np.float32))

    def is_like_speech(self, voice_level_dbfs: float) -> bool:
        """Whether the sound falls from its voice level as no steady noise would."""
        power = self._power.row(0)
        recorded = power[power >= DIGITAL_SILENCE]
        if not len(recorded):
            return False
        low_dbfs = power_to_db(float(np.quantile(recorded, _LOW_QUANTILE)))
        return voice_level_dbfs - low_dbfs >= _SPEECH_DB
