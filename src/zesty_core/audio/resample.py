"""Rate conversion, very high quality (soxr)."""

from __future__ import annotations

import numpy as np

from zesty_core.signal import Block


def resampled(samples: Block, from_hz: int, to_hz: int) -> Block:
    """Signal of shape (channels, samples) at another rate."""
    if from_hz == to_hz:
        return samples
    import soxr

    out = soxr.resample(np.ascontiguousarray(samples.T), from_hz, to_hz, quality="VHQ")
    return np.ascontiguousarray(np.asarray(out, dtype=np.float32).T)
