"""A source that fades in at its start and out at its end."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from zesty_core.foundation.signal import BLOCK_SAMPLES, Block, SignalInfo, Source

LONGEST_FADE_S = 30.0


class FadedSource:
    """``source`` times half a raised cosine at either end; all between is left bit-exact.

    Fades that together are longer than the source meet at the share of each.
    """

    def __init__(self, source: Source, fade_in: int, fade_out: int) -> None:
        self._source = source
        length = source.info.length_samples
        scale = min(1.0, length / max(1, fade_in + fade_out))
        self._in, self._out = int(fade_in * scale), int(fade_out * scale)

    @property
    def info(self) -> SignalInfo:
        """That of the source."""
        return self._source.info

    def blocks(self, block_samples: int = BLOCK_SAMPLES) -> Iterator[Block]:
        """Blocks from the first to the last sample."""
        at = 0
        for block in self._source.blocks(block_samples):
            yield self._faded(block, at)
            at += block.shape[1]

    def read(self, start: int, stop: int) -> Block:
        """Samples ``start`` to ``stop``, clipped to what is there."""
        return self._faded(self._source.read(start, stop), max(0, start))

    def _faded(self, block: Block, at: int) -> Block:
        stop, length = at + block.shape[1], self.info.length_samples
        if at >= self._in and stop <= length - self._out:
            return block
        position = np.arange(at, stop)
        gain = _rise(position, self._in) * _rise(length - 1 - position, self._out)
        faded: Block = block * gain.astype(np.float32)
        return faded


def _rise(distance: np.ndarray, fade: int) -> np.ndarray:
    """Gain so many samples from the end, 0 to 1 over the fade."""
    if fade == 0:
        return np.ones(len(distance))
    return 0.5 - 0.5 * np.cos(np.pi * np.minimum(1.0, (distance + 0.5) / fade))
