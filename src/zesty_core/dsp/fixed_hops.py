"""Hops of about 10 ms that repairs share, so that a passage can begin where all of them decide."""

from __future__ import annotations

BINS_PER_HOP = 40
_BINS_PER_S = 4000
#: At any rate from 8 kHz on.
LONGEST_HOP_S = 0.0125


def bin_samples(sample_rate_hz: int) -> int:
    """Samples of about a quarter of a millisecond."""
    return max(2, round(sample_rate_hz / _BINS_PER_S))


def hop_samples(sample_rate_hz: int) -> int:
    """Samples of a hop: 40 bins."""
    return bin_samples(sample_rate_hz) * BINS_PER_HOP
