"""What kernels do that the language has no word for: eight numbers at once, one rounding for two."""

from __future__ import annotations

import numpy as np

from zesty_core.dsp import fused as fusing
from zesty_core.dsp.fused import fused
from zesty_core.dsp.lanes import LANES, keep_lanes, lanes_of, last_lane, moved_up
from zesty_core.runtime.kernel import kernel

#: So close to one that the square of the rest is lost where a product is rounded by itself.
NEAR_ONE = 1.0 + 2.0**-30
LOST = -(2.0**-60) if fusing._AT_ONCE else 0.0


@kernel
def _in_lanes(numbers, out):
    first, second, third = lanes_of(numbers, 0), lanes_of(numbers, 1), lanes_of(numbers, 2)
    keep_lanes(first * second, out, 0)
    keep_lanes(fused(first, second, third), out, 1)
    keep_lanes(moved_up(first, 99.0), out, 2)
    return last_lane(first)


@kernel
def _fused(left, right, added):
    return fused(left, right, added)


def test_lanes_are_worked_on_like_numbers():
    numbers = np.random.default_rng(0).standard_normal((3, LANES))
    out = np.empty_like(numbers)
    assert _in_lanes(numbers, out) == numbers[0, -1]
    assert np.array_equal(out[0], numbers[0] * numbers[1])
    assert np.allclose(out[1], numbers[0] * numbers[1] + numbers[2], rtol=1e-12)
    assert np.array_equal(out[2], [99.0, *numbers[0, :-1]])


def test_a_product_and_a_sum_are_rounded_once():
    assert _fused(NEAR_ONE, 2.0 - NEAR_ONE, -1.0) == LOST
    rows = np.repeat([[NEAR_ONE], [2.0 - NEAR_ONE], [-1.0]], LANES, axis=1)
    out = np.empty_like(rows)
    _in_lanes(rows, out)
    assert (out[1] == LOST).all()
