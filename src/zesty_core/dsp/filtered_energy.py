"""Energy of a sound as heard through a filter, hop by hop."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.biquad import PASS_ALL, Sections, by_states
from zesty_core.dsp.fused import fused
from zesty_core.foundation.signal import Block
from zesty_core.runtime.kernel import kernel

#: Place in the state of the samples that the open hop holds.
_FILLED = 5


@kernel
def _energies(
    samples: Block,
    rows: Sections,
    hop: int,
    state: NDArray[np.float64],
    out: NDArray[np.float64],
) -> None:
    """Sums of squares of the filtered sound over each hop that is completed.

    ``rows``: two sections as :func:`by_states` gives them. ``state``: four filter states, energy and
    samples of the hop still open.
    """
    b0, b1, b2, b3, b4 = rows[0]
    c0, c1, c2, c3, c4 = rows[1]
    s0, s1, t0, t1, energy, held = state
    filled, done = int(held), 0
    for v in samples:
        x = np.float64(v)
        y = fused(b0, x, s0)
        s0, s1 = fused(b3, s0, fused(b1, x, s1)), fused(b4, s0, b2 * x)
        z = fused(c0, y, t0)
        t0, t1 = fused(c3, t0, fused(c1, y, t1)), fused(c4, t0, c2 * y)
        energy += z * z
        filled += 1
        if filled == hop:
            out[done] = energy
            done += 1
            energy, filled = 0.0, 0
    for place, value in enumerate((s0, s1, t0, t1, energy, float(filled))):
        state[place] = value


class FilteredEnergy:
    """Sums of squares over hops of ``hop_samples`` behind one or two filter sections."""

    def __init__(self, sections: Sections, hop_samples: int, channels: int) -> None:
        rows = [*np.atleast_2d(sections), PASS_ALL][:2]
        self._rows = by_states(np.array(rows))
        self.hop_samples = hop_samples
        self._states = np.zeros((channels, 6))

    def push(self, block: Block) -> NDArray[np.float64]:
        """Sums of the hops completed by this block, shape (channels, hops)."""
        hops = int(self._states[0, _FILLED] + block.shape[1]) // self.hop_samples
        out = np.empty((len(block), hops))
        for samples, state, energies in zip(block, self._states, out, strict=True):
            _energies(samples, self._rows, self.hop_samples, state, energies)
        return out
