"""Hyperbolic tangent, written so that a loop over it takes many values at once.

Lambert's continued fraction, broken off after seven terms, of half the argument, doubled by
``tanh 2y = 2 tanh y / (1 + tanh^2 y)``. Error: 3e-7 of the value (checked in the tests).
"""

from __future__ import annotations

from typing import Any

import numpy as np

from zesty_core.dsp.fast_powers import Row
from zesty_core.runtime.kernel import inlined_kernel, kernel

#: From here on it is one.
_MOST = np.float32(9.0)
_HALF, _TWO = np.float32(0.5), np.float32(2.0)
_N0, _N1, _N2 = np.float32(135_135), np.float32(17_325), np.float32(378)
_D1, _D2, _D3 = np.float32(62_370), np.float32(3_150), np.float32(28)


@inlined_kernel
def fast_tanh(value: Any) -> Any:
    """``tanh`` of a float32."""
    x = value if value < _MOST else _MOST
    x = x if x > -_MOST else -_MOST
    half = _HALF * x
    s = half * half
    above = half * (_N0 + s * (_N1 + s * (_N2 + s)))
    below = _N0 + s * (_D1 + s * (_D2 + s * _D3))
    return _TWO * above * below / (below * below + above * above)


@kernel
def tanh_row(values: Row, factor: float, out: Row) -> None:
    """``tanh`` of values times a factor; ``out`` is another row, or they are taken one by one."""
    by = np.float32(factor)
    for n in range(values.shape[0]):
        out[n] = fast_tanh(by * values[n])
