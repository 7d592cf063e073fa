"""Hops of fixed length in a sound that comes in blocks of any length."""

from __future__ import annotations

import numpy as np

from zesty_core.foundation.signal import Block


def cut_at_hops(held: Block, block: Block, hop_samples: int) -> tuple[Block, Block, Block]:
    """What was held back from the last block completed to a hop, the whole hops after it, and what is
    to be held back now; without a copy of the block."""
    missing = min(-held.shape[1] % hop_samples, block.shape[1])
    straddling = np.concatenate([held, block[:, :missing]], axis=1)
    if straddling.shape[1] % hop_samples:
        return straddling[:, :0], block[:, :0], straddling
    end = block.shape[1] - (block.shape[1] - missing) % hop_samples
    return straddling, block[:, missing:end], block[:, end:].copy()
