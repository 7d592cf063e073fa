"""A linear-phase band-pass that can be computed only where it is needed.

Windowed-sinc design (Kaiser): Oppenheim & Schafer, Discrete-Time Signal Processing, ch. 7. The sound
minus its band is the exact complement, so that what is not turned down stays bit for bit.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.extremes import extremes
from zesty_core.dsp.kernel import kernel
from zesty_core.signal import Block

_KAISER_BETA = 5.65  # stop band 60 dB down
_TAPS_S = 160 / 48_000
_GROUP = 64


def band_pass(low_hz: float, high_hz: float, sample_rate_hz: int) -> NDArray[np.float32]:
    """Taps, an odd number, about 3 ms long; the band's edges are 6 dB down."""
    half = round(_TAPS_S * sample_rate_hz / 2)
    n = np.arange(-half, half + 1)
    high, low = (min(f, 0.499 * sample_rate_hz) / sample_rate_hz for f in (high_hz, low_hz))
    taps = 2.0 * (high * np.sinc(2.0 * high * n) - low * np.sinc(2.0 * low * n))
    return np.asarray(taps * np.kaiser(len(n), _KAISER_BETA), dtype=np.float32)


@kernel
def _band(near: Block, taps: Block, acc: Block) -> None:
    """Filtered samples of one group; ``near`` has ``len(taps) - 1`` more samples than ``acc``."""
    size = acc.shape[0]
    half = taps.shape[0] // 2
    acc[:] = taps[half] * near[half : half + size]
    # The taps are symmetric: two samples share one.
    for k in range(half):
        tap = taps[k]
        left, right = near[k : k + size], near[2 * half - k : 2 * half - k + size]
        for n in range(size):
            acc[n] += tap * (left[n] + right[n])


@kernel
def turn_band_down(x: Block, taps: Block, factors: NDArray[np.float32], out: Block) -> None:
    """``out[n]`` is the sound with its band times ``factors[n]``.

    ``x`` holds half the taps as context on either side. Groups in which every factor is 1 are
    copied: there the band need not be known.
    """
    half = taps.shape[0] // 2
    scratch = np.empty(_GROUP, np.float32)
    one = np.float32(1.0)
    for first in range(0, out.shape[0], _GROUP):
        size = min(_GROUP, out.shape[0] - first)
        gain, into = factors[first : first + size], out[first : first + size]
        into[:] = x[half + first : half + first + size]
        if extremes(gain)[0] == one:
            continue
        acc = scratch[:size]
        _band(x[first : first + size + 2 * half], taps, acc)
        for n in range(size):
            into[n] += (gain[n] - one) * acc[n]
