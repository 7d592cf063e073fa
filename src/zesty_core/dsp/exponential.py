"""Gain from decibels inside kernels, faster than the library's exponential.

``10^(x/20) = 2^i 2^f`` with the power of two from a table and ``2^f`` (f within half of zero) by its
Taylor series to the seventh term: relative error below 3e-8, a quarter of a float32 step.
"""

from __future__ import annotations

import math

import numpy as np

from zesty_core.runtime.kernel import kernel

_PER_DB = math.log2(10.0) / 20.0
_LOWEST, _HIGHEST = -200, 100
_POWERS = 2.0 ** np.arange(_LOWEST, _HIGHEST + 1, dtype=np.float64)
_C1, _C2, _C3, _C4, _C5, _C6, _C7 = (math.log(2.0) ** n / math.factorial(n) for n in range(1, 8))


@kernel
def exp_db(level_db: float) -> float:
    """Amplitude factor of a level in dB between -1200 and 600."""
    y = level_db * _PER_DB
    whole = math.floor(y + 0.5)
    f = y - whole
    power = _POWERS[min(max(int(whole), _LOWEST), _HIGHEST) - _LOWEST]
    series = 1.0 + f * (_C1 + f * (_C2 + f * (_C3 + f * (_C4 + f * (_C5 + f * (_C6 + f * _C7))))))
    return float(power * series)
