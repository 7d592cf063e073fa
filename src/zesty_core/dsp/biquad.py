"""Second-order filter sections: coefficients and a streaming cascade.

Coefficients are rows ``b0 b1 b2 a1 a2`` normalised to ``a0 = 1``. Formulas: Audio EQ Cookbook
(W3C Note 2021), with ``alpha = sin(w0) / (2 Q)``; first-order sections by the bilinear transform.
States are float64 whatever the sound is.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.fused import fused
from zesty_core.dsp.kernel import kernel
from zesty_core.dsp.lanes import LANES, keep_lanes, lanes_of, last_lane, moved_up
from zesty_core.signal import Block

Sections = NDArray[np.float64]
#: Samples that go through all sections while they lie in the processor's cache.
_NEAR_SAMPLES = 2048
#: How far the first section of a group is ahead of the last.
_AHEAD = 2 * (LANES - 1)
#: A section that changes nothing.
PASS_ALL = (1.0, 0.0, 0.0, 0.0, 0.0)

#: Q of the sections of Butterworth filters by slope; None stands for a first-order section.
BUTTERWORTH_Q: dict[int, tuple[float | None, ...]] = {
    6: (None,),
    12: (1 / math.sqrt(2),),
    18: (None, 1.0),
    24: (1 / (2 * math.cos(math.pi / 8)), 1 / (2 * math.cos(3 * math.pi / 8))),
}


def _row(b0: float, b1: float, b2: float, a0: float, a1: float, a2: float) -> Sections:
    return np.array([b0, b1, b2, a1, a2]) / a0


def _angle(freq_hz: float, q: float, rate: int) -> tuple[float, float]:
    w0 = 2.0 * math.pi * freq_hz / rate
    return math.cos(w0), math.sin(w0) / (2.0 * q)


def low_pass(freq_hz: float, q: float | None, rate: int) -> Sections:
    """Second-order low-pass, or first-order when ``q`` is None."""
    if q is None:
        k = math.tan(math.pi * freq_hz / rate)
        return _row(k, k, 0.0, 1.0 + k, k - 1.0, 0.0)
    c, alpha = _angle(freq_hz, q, rate)
    return _row((1 - c) / 2, 1 - c, (1 - c) / 2, 1 + alpha, -2 * c, 1 - alpha)


def high_pass(freq_hz: float, q: float | None, rate: int) -> Sections:
    """Second-order high-pass, or first-order when ``q`` is None."""
    if q is None:
        k = math.tan(math.pi * freq_hz / rate)
        return _row(1.0, -1.0, 0.0, 1.0 + k, k - 1.0, 0.0)
    c, alpha = _angle(freq_hz, q, rate)
    return _row((1 + c) / 2, -(1 + c), (1 + c) / 2, 1 + alpha, -2 * c, 1 - alpha)


def bell(freq_hz: float, q: float, gain_db: float, rate: int) -> Sections:
    """Peaking section: ``gain_db`` at ``freq_hz``, 0 dB far away."""
    amount = 10.0 ** (gain_db / 40.0)
    c, alpha = _angle(freq_hz, q, rate)
    return _row(
        1 + alpha * amount,
        -2 * c,
        1 - alpha * amount,
        1 + alpha / amount,
        -2 * c,
        1 - alpha / amount,
    )


def notch(freq_hz: float, q: float, rate: int) -> Sections:
    """Section that removes ``freq_hz`` entirely."""
    c, alpha = _angle(freq_hz, q, rate)
    return _row(1.0, -2 * c, 1.0, 1 + alpha, -2 * c, 1 - alpha)


def low_shelf(freq_hz: float, q: float, gain_db: float, rate: int) -> Sections:
    """Section with ``gain_db`` below ``freq_hz``, half of it there."""
    amount = 10.0 ** (gain_db / 40.0)
    c, alpha = _angle(freq_hz, q, rate)
    up, down, root = amount + 1, amount - 1, 2 * math.sqrt(amount) * alpha
    return _row(
        amount * (up - down * c + root),
        2 * amount * (down - up * c),
        amount * (up - down * c - root),
        up + down * c + root,
        -2 * (down + up * c),
        up + down * c - root,
    )


def high_shelf(freq_hz: float, q: float, gain_db: float, rate: int) -> Sections:
    """Section with ``gain_db`` above ``freq_hz``, half of it there."""
    amount = 10.0 ** (gain_db / 40.0)
    c, alpha = _angle(freq_hz, q, rate)
    up, down, root = amount + 1, amount - 1, 2 * math.sqrt(amount) * alpha
    return _row(
        amount * (up + down * c + root),
        -2 * amount * (down + up * c),
        amount * (up + down * c - root),
        up - down * c + root,
        2 * (down - up * c),
        up - down * c - root,
    )


def response_db(sections: Sections, freq_hz: NDArray[np.float64], rate: int) -> Sections:
    """Magnitude response of a cascade in dB at each frequency."""
    z = np.exp(-2j * np.pi * freq_hz / rate)
    total = np.ones_like(z)
    for b0, b1, b2, a1, a2 in sections:
        total *= (b0 + b1 * z + b2 * z**2) / (1.0 + a1 * z + a2 * z**2)
    return np.asarray(20.0 * np.log10(np.maximum(np.abs(total), 1e-12)), dtype=np.float64)


def by_states(sections: Sections) -> Sections:
    """Rows ``b0 c1 c2 -a1 -a2`` with ``c = b - a b0``: what each state takes from the input alone.

    The next states then follow from the states and the input, without waiting for the output; and
    each is a product added to something that is known before it.
    """
    rows = np.array(sections, dtype=np.float64).reshape(-1, 5)
    rows[:, 3:5] *= -1.0
    rows[:, 1:3] += rows[:, 3:5] * rows[:, :1]
    return rows


class Cascade:
    """Sections in series with their running state; transposed direct form II."""

    def __init__(self, sections: Sections, channels: int) -> None:
        rows = by_states(sections)
        # Sections that pass everything fill up the last group.
        filling = [PASS_ALL] * (-len(rows) % LANES)
        groups = np.array([*rows, *filling]).reshape(-1, LANES, 5)
        self._rows = np.ascontiguousarray(groups.transpose(0, 2, 1))
        self._states = np.zeros((channels, len(groups), 2, LANES))

    def __call__(self, block: Block) -> Block:
        """Filter the next block; returns a new one."""
        out = np.empty_like(block)
        for samples, states, into in zip(block, self._states, out, strict=True):
            _run(samples, self._rows, states, into)
        return out


@kernel
def _run_one(work: Sections, rows: Sections, state: Sections, which: int) -> None:
    """Run ``work`` through one section of a group in place."""
    b0, b1, b2, b3, b4 = (
        rows[0, which],
        rows[1, which],
        rows[2, which],
        rows[3, which],
        rows[4, which],
    )
    s0, s1 = state[0, which], state[1, which]
    for n in range(work.shape[0]):
        x = work[n]
        work[n] = fused(b0, x, s0)
        s0, s1 = fused(b3, s0, fused(b1, x, s1)), fused(b4, s0, b2 * x)
    state[0, which], state[1, which] = s0, s1


@kernel
def _run_group(work: Sections, rows: Sections, state: Sections, lanes: Sections) -> None:
    """Run ``work`` through a section in each lane, in place; ``state`` (2, lanes) is carried on.

    All work at the same time, each two samples behind the one before it, so that none waits for what
    has just been made. At both ends of ``work`` some have nothing to do, and are run one by one.
    ``lanes`` (2, lanes) is overwritten.
    """
    size = work.shape[0]
    if size < _AHEAD:
        for k in range(LANES):
            _run_one(work, rows, state, k)
        return
    for k in range(LANES - 1):
        _run_one(work[: _AHEAD - 2 * k], rows, state, k)
        lanes[0, k], lanes[1, k] = work[_AHEAD - 2 * k - 2], work[_AHEAD - 2 * k - 1]
    b0, b1, b2 = lanes_of(rows, 0), lanes_of(rows, 1), lanes_of(rows, 2)
    b3, b4 = lanes_of(rows, 3), lanes_of(rows, 4)
    s0, s1, older, newer = (
        lanes_of(state, 0),
        lanes_of(state, 1),
        lanes_of(lanes, 0),
        lanes_of(lanes, 1),
    )
    entering, leaving = work[_AHEAD:], work[: size - _AHEAD]
    for n in range(entering.shape[0]):
        x = moved_up(older, entering[n])
        older, newer = newer, fused(b0, x, s0)
        s0, s1 = fused(b3, s0, fused(b1, x, s1)), fused(b4, s0, b2 * x)
        leaving[n] = last_lane(newer)
    keep_lanes(s0, state, 0)
    keep_lanes(s1, state, 1)
    keep_lanes(older, lanes, 0)
    keep_lanes(newer, lanes, 1)
    for k in range(LANES - 1):
        work[size - 2 * k - 2], work[size - 2 * k - 1] = lanes[0, k], lanes[1, k]
    for k in range(1, LANES):
        _run_one(work[size - 2 * k :], rows, state, k)


@kernel
def _run(samples: Block, rows: Sections, states: Sections, out: Block) -> None:
    """Through all sections, some samples at a time so that they stay in the processor's cache."""
    work, lanes = np.empty(_NEAR_SAMPLES), np.zeros((2, LANES))
    for start in range(0, samples.shape[0], _NEAR_SAMPLES):
        size = min(_NEAR_SAMPLES, samples.shape[0] - start)
        near, into = samples[start : start + size], out[start : start + size]
        for n in range(size):
            work[n] = near[n]
        for group in range(rows.shape[0]):
            _run_group(work[:size], rows[group], states[group], lanes)
        for n in range(size):
            into[n] = np.float32(work[n])
