"""Smallest and largest value of a stretch of samples.

The bits of a float, those below the sign turned over where it is negative, are in the order of the
numbers as integers; and the compiler compares integers many at once, floats one after the other.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from zesty_core.dsp.float_bits import as_bits, as_float
from zesty_core.foundation.signal import Block
from zesty_core.runtime.kernel import inlined_kernel, kernel

_SIGN_BIT = np.int32(31)
_MAGNITUDE = np.int32(0x7FFFFFFF)


@inlined_kernel
def _turned(bits: Any) -> Any:
    """Bits of a float to an integer of the same order, and back."""
    return bits ^ ((bits >> _SIGN_BIT) & _MAGNITUDE)


@kernel
def extremes(x: Block) -> tuple[float, float]:
    """Smallest and largest of finite numbers."""
    bits = x.view(np.int32)
    low, high = _MAGNITUDE, ~_MAGNITUDE
    for n in range(bits.shape[0]):
        order = _turned(bits[n])
        low = min(low, order)
        high = max(high, order)
    return as_float(_turned(low)), as_float(_turned(high))


@kernel
def largest_magnitude(x: Block) -> float:
    """Largest magnitude of finite numbers."""
    bits = x.view(np.int32)
    largest = np.int32(0)
    for n in range(bits.shape[0]):
        largest = max(largest, bits[n] & _MAGNITUDE)
    return as_float(largest)


@kernel
def largest_bend(x: Block) -> float:
    """Largest magnitude of the second differences of finite numbers."""
    largest = np.int32(0)
    before, here, after = x[:-2], x[1:-1], x[2:]
    for n in range(after.shape[0]):
        bend = (before[n] - here[n]) + (after[n] - here[n])
        largest = max(largest, as_bits(bend) & _MAGNITUDE)
    return as_float(largest)
