"""Loudness: integrated, momentary, short-term, range.

K-weighting and gating by ITU-R BS.1770-5 Annex 1, range by EBU Tech 3342. The filter is derived
anew at every sample rate from the analogue prototypes behind the standard's 48 kHz coefficients
(shelf 1681.97 Hz, +4.0 dB, Q 0.7072; high-pass 38.14 Hz, Q 0.5003; values from memory, checked
against the table of Annex 1 in the tests).
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.biquad import Sections
from zesty_core.dsp.filtered_energy import FilteredEnergy
from zesty_core.foundation.signal import Block
from zesty_core.measures.time_series import TimeSeries
from zesty_core.runtime.kernel import kernel

_OFFSET_LU = -0.691
_ABSOLUTE_GATE_LUFS = -70.0
_RELATIVE_GATE_LU = -10.0
_RANGE_GATE_LU = -20.0
#: Windows slide by 10 ms for the loudest ones; gates and range look every 100 ms.
_HOPS_PER_S = 100
_GATE_HOPS = 10
_MOMENTARY_HOPS = 40
_SHORT_TERM_HOPS = 300


def k_weighting(sample_rate_hz: int) -> Sections:
    """Both sections of the K-weighting filter at this rate.

    Parameters
    ----------
    sample_rate_hz : int
        Sample rate in Hz.

    Returns
    -------
    sections : array, shape (2, 5)
        High shelf and high-pass.

    References
    ----------
    ITU-R BS.1770-5, annex 1; other rates than 48 kHz from the analogue prototypes.
    """
    gain_db, shelf_hz, shelf_q = 3.999843853973347, 1681.974450955533, 0.7071752369554196
    k = math.tan(math.pi * shelf_hz / sample_rate_hz)
    high = 10.0 ** (gain_db / 20.0)
    band = high**0.4996667741545416
    a0 = 1.0 + k / shelf_q + k * k
    shelf = [
        (high + band * k / shelf_q + k * k) / a0,
        2.0 * (k * k - high) / a0,
        (high - band * k / shelf_q + k * k) / a0,
        2.0 * (k * k - 1.0) / a0,
        (1.0 - k / shelf_q + k * k) / a0,
    ]
    pass_hz, pass_q = 38.13547087602444, 0.5003270373238773
    k = math.tan(math.pi * pass_hz / sample_rate_hz)
    a0 = 1.0 + k / pass_q + k * k
    high_pass = [1.0, -2.0, 1.0, 2.0 * (k * k - 1.0) / a0, (1.0 - k / pass_q + k * k) / a0]
    return np.array([shelf, high_pass])


def _lufs(power: float | NDArray[np.float64]) -> NDArray[np.float64]:
    return _OFFSET_LU + 10.0 * np.log10(np.maximum(power, 1e-20))


@kernel
def _window_means(
    energy: NDArray[np.float32], width: int, every: int, out: NDArray[np.float64]
) -> None:
    """Mean of ``width`` values from every ``every``-th on."""
    entered, left, last = 0.0, 0.0, 0
    for k in range(out.shape[0]):
        first = k * every
        for n in range(last, first + width):
            entered += energy[n]
        last = first + width
        for n in range(max(first - every, 0), first):
            left += energy[n]
        out[k] = max(entered - left, 0.0) / width


@kernel
def _largest_mean(energy: NDArray[np.float32], width: int) -> float:
    """Largest mean of ``width`` values next to each other; zero where there are fewer."""
    entered, left, largest = 0.0, 0.0, 0.0
    for n in range(energy.shape[0]):
        entered += energy[n]
        if n >= width:
            left += energy[n - width]
        if n >= width - 1 and entered - left > largest:
            largest = entered - left
    return largest / width


class LoudnessMeter:
    """Integrated, momentary and short-term loudness, and loudness range.

    ITU-R BS.1770-5 (weighting, gates), EBU Tech 3341 (windows of 0.4 and 3 s), EBU Tech 3342 (range).
    Channels count alike (mono, or left and right).

    Parameters
    ----------
    sample_rate_hz : from 8 to 192 kHz.
    channels : 1 or 2.
    """

    def __init__(self, sample_rate_hz: int, channels: int) -> None:
        self._hop_samples = round(sample_rate_hz / _HOPS_PER_S)
        self._weighted = FilteredEnergy(k_weighting(sample_rate_hz), self._hop_samples, channels)
        self._hops = TimeSeries(1, np.float32)

    def push(self, block: Block) -> None:
        """Take the next block into account."""
        self._hops.append(self._weighted.push(block).sum(axis=0, keepdims=True))

    def _windows(self, hops: int, every: int = 1) -> NDArray[np.float64]:
        """Mean power of windows of so many hops, a new one ``every`` so many hops."""
        energy = self._hops.row(0)
        out = np.empty(max(0, len(energy) - hops + every) // every)
        _window_means(energy, hops, every, out)
        out /= self._hop_samples
        return out

    def time_series(self, points: int) -> tuple[float, NDArray[np.float64], NDArray[np.float64]]:
        """Momentary and short-term loudness over time: step in seconds, then the loudest of each
        step, at the middle of its window; minus infinity where the window is not full."""
        hops = self._hops.hops
        every = max(1, -(-hops // points))
        count = -(-hops // every)
        curves = []
        for window in (_MOMENTARY_HOPS, _SHORT_TERM_HOPS):
            level = np.full(count * every, -math.inf)
            power = self._windows(window)
            level[window // 2 : window // 2 + len(power)] = _lufs(power)
            curves.append(level.reshape(count, every).max(axis=1))
        return every / _HOPS_PER_S, curves[0], curves[1]

    def integrated_lufs(self) -> float | None:
        """Gated loudness; None when shorter than one block or all below the absolute gate."""
        # 400 ms blocks overlap by 75 %.
        power = self._windows(_MOMENTARY_HOPS, _GATE_HOPS)
        power = power[_lufs(power) > _ABSOLUTE_GATE_LUFS]
        if not len(power):
            return None
        gate = float(_lufs(power.mean())) + _RELATIVE_GATE_LU
        return float(_lufs(power[_lufs(power) > gate].mean()))

    def momentary_max_lufs(self) -> float | None:
        """Loudest 400 ms."""
        return self._loudest(_MOMENTARY_HOPS)

    def short_term_max_lufs(self) -> float | None:
        """Loudest 3 s."""
        return self._loudest(_SHORT_TERM_HOPS)

    def _loudest(self, hops: int) -> float | None:
        power = _largest_mean(self._hops.row(0), hops) / self._hop_samples
        loudest = float(_lufs(power))
        return loudest if loudest > _ABSOLUTE_GATE_LUFS else None

    def loudness_range_lu(self) -> float | None:
        """10th to 95th percentile of the gated short-term loudness; None when under 3 s."""
        power = self._windows(_SHORT_TERM_HOPS, _GATE_HOPS)
        power = power[_lufs(power) > _ABSOLUTE_GATE_LUFS]
        if not len(power):
            return None
        level = _lufs(power)
        kept = np.sort(level[level > float(_lufs(power.mean())) + _RANGE_GATE_LU])
        low, high = (kept[round(p * (len(kept) - 1))] for p in (0.10, 0.95))
        return float(high - low)
