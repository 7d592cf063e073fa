"""Base-two logarithm and power of whole rows, many values at once.

Rows must not be worked on in place: then the compiler could not take many values at once.
Exponent bits are moved as integers; what is left, between 1 and 2 or within half of zero, goes
through a short polynomial. Errors: 2e-5 in the logarithm, 3e-7 of the power (checked in the tests).
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.kernel import kernel

Row = NDArray[np.float32]

_MANTISSA_BITS, _BIAS = 23, 127
_MANTISSA = np.int32((1 << _MANTISSA_BITS) - 1)
_ONE = np.int32(_BIAS << _MANTISSA_BITS)


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


@kernel
def log2_row(values: Row, out: Row) -> None:
    """``log2`` of positive values; ``out`` is another row."""
    bits = values.view(np.int32)
    mantissa = np.empty(values.shape[0], np.int32)
    for k in range(bits.shape[0]):
        mantissa[k] = (bits[k] & _MANTISSA) | _ONE
    fraction = mantissa.view(np.float32)
    one = np.float32(1.0)
    for k in range(bits.shape[0]):
        m = fraction[k] - one
        whole = np.float32((bits[k] >> _MANTISSA_BITS) - _BIAS)
        fit = _L0 + m * (_L1 + m * (_L2 + m * (_L3 + m * (_L4 + m * _L5))))
        out[k] = whole + m * fit


@kernel
def exp2_row(values: Row, out: Row) -> None:
    """``2^x``, x held within -120 to 120; ``out`` is another row."""
    bits = np.empty(values.shape[0], np.int32)
    one = np.float32(1.0)
    shift = np.float32(_BIAS + 0.5)
    for k in range(values.shape[0]):
        x = max(min(values[k], _HIGHEST), _LOWEST)
        # Cutting off rounds down here, since the shifted value is never negative.
        whole = np.int32(x + shift)
        bits[k] = whole << np.int32(_MANTISSA_BITS)
        f = x - np.float32(whole - np.int32(_BIAS))
        out[k] = one + f * (_E1 + f * (_E2 + f * (_E3 + f * (_E4 + f * (_E5 + f * _E6)))))
    power = bits.view(np.float32)
    for k in range(values.shape[0]):
        out[k] *= power[k]
