"""Active speech level: how loud the voice is while it speaks. ITU-T P.56, method B.

The envelope is the magnitude smoothed twice with 30 ms, taken at about 1 kHz (P.56 asks for at
least 600 Hz). Its thresholds stand 1.5 dB apart instead of 6, which makes the interpolation
between them finer and the level independent of the recording's gain; the definition is the same.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.kernel import kernel
from zesty_core.signal import Block

_SMOOTHING_S = 0.030
_HANGOVER_S = 0.200
_MARGIN_DB = 15.9
_ENVELOPE_HZ = 1_000
_DB_PER_THRESHOLD = 1.5
_THRESHOLDS_DB = np.arange(-105.0, 0.1, _DB_PER_THRESHOLD)


@kernel
def _advance(
    block: Block,
    hop: int,
    smoothing: float,
    hangover: int,
    thresholds: NDArray[np.float64],
    state: NDArray[np.float64],
    hang: NDArray[np.int64],
    active: NDArray[np.int64],
) -> None:
    """``state``: sum of squares, open hop's magnitude and length, two smoothing stages."""
    channels = block.shape[0]
    # Locals stay in registers; the state array would be written at every sample.
    total, magnitude, filled = state[0], state[1], state[2]
    for n in range(block.shape[1]):
        square = 0.0
        for channel in range(channels):
            v = np.float64(block[channel, n])
            square += v * v
        square /= channels
        total += square
        magnitude += math.sqrt(square)
        filled += 1.0
        if filled < hop:
            continue
        state[3] = smoothing * state[3] + (1.0 - smoothing) * magnitude / hop
        state[4] = smoothing * state[4] + (1.0 - smoothing) * state[3]
        magnitude = 0.0
        filled = 0.0
        envelope = state[4]
        for j in range(thresholds.shape[0]):
            over = envelope >= thresholds[j]
            hang[j] = hangover if over else hang[j] - 1
            active[j] += 1 if hang[j] >= 0 else 0
    state[0], state[1], state[2] = total, magnitude, filled


class SpeechMeter:
    """Active level and share of time; channels are taken by their mean power."""

    def __init__(self, sample_rate_hz: int) -> None:
        self._hop = max(1, round(sample_rate_hz / _ENVELOPE_HZ))
        rate = sample_rate_hz / self._hop
        self._smoothing = math.exp(-1.0 / (rate * _SMOOTHING_S))
        self._hangover = round(rate * _HANGOVER_S)
        self._thresholds = 10.0 ** (_THRESHOLDS_DB / 20.0)
        self._state = np.zeros(5)
        self._hang = np.full(len(self._thresholds), -1, np.int64)
        self._active = np.zeros(len(self._thresholds), np.int64)
        self._samples = 0

    def push(self, block: Block) -> None:
        """Take the next block into account."""
        self._samples += block.shape[1]
        _advance(
            block,
            self._hop,
            self._smoothing,
            self._hangover,
            self._thresholds,
            self._state,
            self._hang,
            self._active,
        )

    def level_and_activity(self) -> tuple[float, float] | None:
        """Active level in dBFS and activity factor 0..1; None when nothing is active."""
        heard = self._active > 0
        if not heard.any():
            return None
        # Level over the time active at each threshold, and how far it stands above that threshold.
        active = self._active[heard] * self._hop
        level_db = 10.0 * np.log10(max(self._state[0], 1e-30) / active)
        above = level_db - _THRESHOLDS_DB[heard] - _MARGIN_DB
        crossing = int(np.argmax(above <= 0.0)) if (above <= 0.0).any() else -1
        if crossing < 0:
            level = float(level_db[-1])
        elif crossing == 0:
            level = float(level_db[0])
        else:
            share = above[crossing - 1] / (above[crossing - 1] - above[crossing])
            level = float(
                level_db[crossing - 1] + share * (level_db[crossing] - level_db[crossing - 1])
            )
        factor = self._state[0] / max(self._samples, 1) / 10.0 ** (level / 10.0)
        return level, min(1.0, float(factor))
