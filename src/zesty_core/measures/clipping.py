"""Runs of samples cut off at one level. Common practice, no published source.

A run is three or more equal samples at or above -0.1 dBFS, or at the file's own top when that is
lower. At the file's own top the neighbours must stand clear below: the flat crest of a slow,
unclipped wave has neighbours one quantisation step away, a cut wave does not.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.extremes import largest_magnitude
from zesty_core.foundation.signal import Block
from zesty_core.foundation.units import db_to_factor
from zesty_core.runtime.kernel import kernel

_FULL = db_to_factor(-0.1)
_LEAST_RUN = 3
_CLEAR_BELOW = 0.998
#: Samples that are passed over together where nothing in them can matter.
_GROUP = 64
#: A stretch is looked at as a whole before its groups are.
_STRETCH = 512
#: Places kept for marks on the waveform; the count goes on beyond.
MOST_MARKS = 2_000


@kernel
def _is_plain(samples: Block, top: float) -> bool:
    """Nothing as far out as ``top``, or no two neighbours alike and nothing beyond: neither a run that
    counts nor a new top."""
    largest = largest_magnitude(samples)
    if largest < top:
        return True
    alike = np.int32(0)
    for n in range(samples.shape[0] - 1):
        alike |= np.int32(samples[n] == samples[n + 1])
    return alike == 0 and largest <= top


@kernel
def _plain_from(samples: Block, n: int, top: float) -> int:
    """How many samples from the ``n``-th on can be passed over together."""
    for size in (_STRETCH, _GROUP):
        fits = n % size == 0 and n + size <= samples.shape[0]
        if fits and _is_plain(samples[n - 1 : n + size], top):
            return size
    return 0


#: Places in the counts: runs at full scale, runs at the own top, marks stored.
_AT_FULL, _AT_OWN_TOP, _STORED = 0, 1, 2


@kernel
def _scan(
    samples: Block,
    first_index: int,
    full: float,
    state: NDArray[np.float64],
    marks: NDArray[np.int64],
    counts: NDArray[np.int64],
) -> None:
    """``state``: previous sample, run length, sample before the run, own top."""
    previous, run, before, top = state
    n, length = -1, samples.shape[0]
    while n + 1 < length:
        n += 1
        if n % _GROUP == 0 and n > 0 and run < _LEAST_RUN:
            plain = _plain_from(samples, n, top)
            if plain > 0:
                last = n + plain - 1
                previous, run, before = (
                    np.float64(samples[last]),
                    1.0,
                    np.float64(samples[last - 1]),
                )
                n = last
                continue
        v = np.float64(samples[n])
        if v == previous:
            run += 1
            continue
        size = previous if previous > 0 else -previous
        if run >= _LEAST_RUN and size >= top and size > 0:
            at_full = size >= full
            clear = abs(before) < _CLEAR_BELOW * size or abs(v) < _CLEAR_BELOW * size
            if size > top and not at_full:
                counts[_AT_OWN_TOP] = 0
                counts[_STORED] = 0
            if at_full and counts[_AT_FULL] == 0:
                counts[_STORED] = 0
            if at_full or clear:
                counts[_AT_FULL if at_full else _AT_OWN_TOP] += 1
                if counts[_STORED] < marks.shape[0]:
                    marks[counts[_STORED]] = first_index + n - np.int64(run)
                    counts[_STORED] += 1
        if size > top:
            if size < full and counts[_AT_FULL] == 0 and run < _LEAST_RUN:
                counts[_AT_OWN_TOP] = 0
                counts[_STORED] = 0
            top = size if size < full else full
        before = previous
        previous = v
        run = 1
    for place, value in enumerate((previous, run, before, top)):
        state[place] = value


class ClippingMeter:
    """Counts cut-off runs, each channel on its own."""

    def __init__(self, channels: int) -> None:
        self._states = np.zeros((channels, 4))
        self._marks = np.zeros((channels, MOST_MARKS), np.int64)
        self._counts = np.zeros((channels, 3), np.int64)
        self._done = 0

    def push(self, block: Block) -> None:
        """Take the next block into account."""
        for channel, samples in enumerate(block):
            _scan(
                samples,
                self._done,
                _FULL,
                self._states[channel],
                self._marks[channel],
                self._counts[channel],
            )
        self._done += block.shape[1]

    def finish(self) -> None:
        """Close a run that reaches the last sample."""
        self.push(np.zeros((len(self._states), 1), np.float32))

    @property
    def runs(self) -> int:
        """Number of runs, channels added up."""
        return sum(int(c[0] if c[0] else c[1]) for c in self._counts)

    @property
    def marks(self) -> list[int]:
        """First samples of the runs found, in order, at most MOST_MARKS a channel."""
        kept = [m[: c[2]] for m, c in zip(self._marks, self._counts, strict=True)]
        return sorted(int(x) for x in np.concatenate(kept))
