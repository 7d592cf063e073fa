"""Linkwitz-Riley crossovers, 24 dB per octave, whose bands add up flat.

Each side is two Butterworth sections in series; low and high together are an all-pass. Bands below a
later crossover pass its all-pass too, so that all bands keep step. Linkwitz, JAES 24(1), 1976.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zesty_core.dsp.biquad import BUTTERWORTH_Q, Sections, high_pass, low_pass
from zesty_core.dsp.cascade import Cascade
from zesty_core.foundation.signal import Block

_Q = BUTTERWORTH_Q[12][0]


def all_pass(freq_hz: float, rate: int) -> Sections:
    """What both sides of a crossover at ``freq_hz`` add up to.

    Parameters
    ----------
    freq_hz : float
        Where the two sides meet.
    rate : int
        Sample rate in Hz.

    Returns
    -------
    sections : array, shape (1, 5)
        An all-pass of second order.
    """
    _, _, _, a1, a2 = low_pass(freq_hz, _Q, rate)
    return np.array([a2, a1, 1.0, a1, a2])


def band_sections(crossovers_hz: Sequence[float], rate: int) -> list[Sections]:
    """Filter sections of each band, from the lowest to the highest.

    Parameters
    ----------
    crossovers_hz : sequence of float
        Rising, each below half the rate.
    rate : int
        Sample rate in Hz.

    Returns
    -------
    bands : list of arrays
        One cascade for each band, one more than there are crossovers; their outputs add up to an
        all-pass.
    """
    bands = []
    for band in range(len(crossovers_hz) + 1):
        rows = []
        for index, freq_hz in enumerate(crossovers_hz):
            if index < band:
                rows += [high_pass(freq_hz, _Q, rate)] * 2
            elif index == band:
                rows += [low_pass(freq_hz, _Q, rate)] * 2
            else:
                rows.append(all_pass(freq_hz, rate))
        bands.append(np.array(rows))
    return bands


class Crossover:
    """Splits a signal into bands, block by block."""

    def __init__(self, crossovers_hz: Sequence[float], rate: int, channels: int) -> None:
        self._bands = [Cascade(rows, channels) for rows in band_sections(crossovers_hz, rate)]

    def __call__(self, block: Block) -> list[Block]:
        """The bands of the next block; together they are the block, its phase turned."""
        return [band(block) for band in self._bands]
