"""Base-two logarithm and power, written so that a loop over them takes many values at once.

Exponent bits are moved as integers; what is left, between 1 and 2 or within half of zero, goes
through a short polynomial. Errors: 2e-5 in the logarithm, 3e-7 of the power (checked in the tests).
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.float_bits import as_bits, as_float
from zesty_core.runtime.kernel import inlined_kernel, kernel

Row = NDArray[np.float32]

_MANTISSA_BITS, _BIAS = np.int32(23), np.int32(127)
_MANTISSA = np.int32((1 << _MANTISSA_BITS) - 1)
_ONE = np.int32(_BIAS << _MANTISSA_BITS)
_UNIT, _SHIFT = np.float32(1.0), np.float32(_BIAS + 0.5)


def _log_fit() -> list[np.float32]:
    """Coefficients of log2 on 1..2, fitted at Chebyshev points; exact at 1."""
    x = 1.5 + 0.5 * np.cos(np.pi * (np.arange(400) + 0.5) / 400)
    # log2(x) = (x - 1) * polynomial, so that a logarithm of one is zero.
    polynomial = np.polynomial.polynomial.polyfit(x - 1.0, np.log2(x) / (x - 1.0), 5)
    return [np.float32(c) for c in polynomial]


_L0, _L1, _L2, _L3, _L4, _L5 = _log_fit()
_E1, _E2, _E3, _E4, _E5, _E6 = (
    np.float32(math.log(2.0) ** n / math.factorial(n)) for n in range(1, 7)
)
_LOWEST, _HIGHEST = np.float32(-120.0), np.float32(120.0)


@inlined_kernel
def fast_log2(value: Any) -> Any:
    """``log2`` of a positive float32."""
    bits = as_bits(value)
    m = as_float((bits & _MANTISSA) | _ONE) - _UNIT
    whole = np.float32((bits >> _MANTISSA_BITS) - _BIAS)
    return whole + m * (_L0 + m * (_L1 + m * (_L2 + m * (_L3 + m * (_L4 + m * _L5)))))


@inlined_kernel
def fast_exp2(value: Any) -> Any:
    """``2^x`` of a float32, held within -120 to 120."""
    x = value if value < _HIGHEST else _HIGHEST
    x = x if x > _LOWEST else _LOWEST
    # Cutting off rounds down here, since the shifted value is never negative.
    whole = np.int32(x + _SHIFT)
    f = x - np.float32(whole - _BIAS)
    fit = _UNIT + f * (_E1 + f * (_E2 + f * (_E3 + f * (_E4 + f * (_E5 + f * _E6)))))
    return fit * as_float(whole << _MANTISSA_BITS)


@kernel
def log2_row(values: Row, out: Row) -> None:
    """``log2`` of positive values."""
    for k in range(values.shape[0]):
        out[k] = fast_log2(values[k])


@kernel
def exp2_row(values: Row, out: Row) -> None:
    """``2^x``, x held within -120 to 120."""
    for k in range(values.shape[0]):
        out[k] = fast_exp2(values[k])
