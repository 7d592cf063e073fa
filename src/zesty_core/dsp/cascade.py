"""Filter sections in series, run over a sound that comes in blocks.

States are float64 whatever the sound is. The same bits come out however the sound is cut.
"""

from __future__ import annotations

import numpy as np

from zesty_core.dsp.biquad import PASS_ALL, Sections, by_states
from zesty_core.dsp.fused import fused
from zesty_core.dsp.lanes import LANES, keep_lanes, lanes_of, last_lane, moved_up
from zesty_core.foundation.signal import Block
from zesty_core.runtime.kernel import kernel

#: Samples that go through all sections while they lie in the processor's cache.
_NEAR_SAMPLES = 2048
#: How far the first section of a group is ahead of the last.
_AHEAD = 2 * (LANES - 1)


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
