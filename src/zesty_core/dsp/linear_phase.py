"""A linear-phase band-pass that can be computed only where it is needed.

Windowed-sinc design (Kaiser): Oppenheim & Schafer, Discrete-Time Signal Processing, ch. 7. The sound
minus its band is the exact complement, so that what is not turned down stays bit for bit.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.extremes import extremes
from zesty_core.foundation.signal import Block
from zesty_core.runtime.kernel import kernel

_KAISER_BETA = 5.65  # stop band 60 dB down
_TAPS_S = 160 / 48_000
_GROUP = 64
#: A stretch is looked at as a whole before its groups are.
_STRETCH = 1024
_TAPS_A_TURN = 8


def band_pass(low_hz: float, high_hz: float, sample_rate_hz: int) -> NDArray[np.float32]:
    """Taps, one more than a multiple of eight, about 3 ms; the band's edges are 6 dB down.

    Parameters
    ----------
    low_hz, high_hz : float
        Edges of the band.
    sample_rate_hz : int
        Sample rate in Hz.

    Returns
    -------
    taps : array, shape (taps,)
        Symmetric, so every frequency is late by half of them.
    """
    half = _TAPS_A_TURN // 2 * max(1, round(_TAPS_S * sample_rate_hz / _TAPS_A_TURN))
    n = np.arange(-half, half + 1)
    high, low = (min(f, 0.499 * sample_rate_hz) / sample_rate_hz for f in (high_hz, low_hz))
    taps = 2.0 * (high * np.sinc(2.0 * high * n) - low * np.sinc(2.0 * low * n))
    return np.asarray(taps * np.kaiser(len(n), _KAISER_BETA), dtype=np.float32)


@kernel
def _band(near: Block, taps: Block, acc: Block) -> None:
    """Filtered samples of one group; ``near`` has ``len(taps) - 1`` more samples than the group.

    Eight taps a turn, so that the sums stay in registers; the first one is left over.
    """
    for n in range(_GROUP):
        acc[n] = taps[0] * near[n]
    for k in range(1, taps.shape[0], _TAPS_A_TURN):
        t0, t1, t2, t3 = taps[k], taps[k + 1], taps[k + 2], taps[k + 3]
        t4, t5, t6, t7 = taps[k + 4], taps[k + 5], taps[k + 6], taps[k + 7]
        x = near[k : k + _GROUP + _TAPS_A_TURN - 1]
        for n in range(_GROUP):
            first = (t0 * x[n] + t1 * x[n + 1]) + (t2 * x[n + 2] + t3 * x[n + 3])
            acc[n] += first + ((t4 * x[n + 4] + t5 * x[n + 5]) + (t6 * x[n + 6] + t7 * x[n + 7]))


@kernel
def _copy(samples: Block, out: Block) -> None:
    for n in range(out.shape[0]):
        out[n] = samples[n]


@kernel
def turn_band_down(x: Block, taps: Block, factors: NDArray[np.float32], out: Block) -> None:
    """``out[n]`` is the sound with its band times ``factors[n]``.

    ``x`` holds half the taps as context on either side. Groups in which every factor is 1 are
    copied: there the band need not be known.
    """
    half = taps.shape[0] // 2
    acc = np.empty(_GROUP, np.float32)
    padded = np.zeros(_GROUP + 2 * half, np.float32)
    one = np.float32(1.0)
    _copy(x[half:], out)
    for start in range(0, out.shape[0], _STRETCH):
        stop = min(start + _STRETCH, out.shape[0])
        if extremes(factors[start:stop])[0] == one:
            continue
        for first in range(start, stop, _GROUP):
            size = min(_GROUP, stop - first)
            gain = factors[first : first + size]
            if extremes(gain)[0] == one:
                continue
            near, into = x[first : first + size + 2 * half], out[first : first + size]
            if size < _GROUP:
                padded[: near.shape[0]] = near
                near = padded
            _band(near, taps, acc)
            for n in range(size):
                into[n] += (gain[n] - one) * acc[n]
