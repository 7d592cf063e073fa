"""Rate conversion, very high quality (soxr)."""

from __future__ import annotations

from typing import Any

import numpy as np

from zesty_core.foundation.signal import Block

_QUALITY = "VHQ"


def resampled(samples: Block, from_hz: int, to_hz: int) -> Block:
    """Change the rate of a whole signal, with the phase of every component kept.

    Parameters
    ----------
    samples : (channels, samples).
    from_hz, to_hz : rates.

    Returns
    -------
    (channels, samples) at ``to_hz``; ``samples`` themselves where the rates are equal.

    Examples
    --------
    >>> resampled(np.zeros((2, 48_000), np.float32), 48_000, 44_100).shape
    (2, 44100)
    """
    if from_hz == to_hz:
        return samples
    import soxr

    out = soxr.resample(np.ascontiguousarray(samples.T), from_hz, to_hz, quality=_QUALITY)
    return np.ascontiguousarray(np.asarray(out, dtype=np.float32).T)


class Resampler:
    """A stream at another rate; blocks in, blocks out, aligned with the input."""

    def __init__(self, from_hz: int, to_hz: int, channels: int) -> None:
        self._stream: Any = None
        if from_hz != to_hz:
            import soxr

            self._stream = soxr.ResampleStream(
                from_hz, to_hz, channels, dtype="float32", quality=_QUALITY
            )
        self._channels = channels

    def push(self, block: Block) -> Block:
        """Take a block, give what is ready."""
        return self._converted(block, last=False) if self._stream else block

    def finish(self) -> Block:
        """Give the rest."""
        nothing = np.zeros((self._channels, 0), np.float32)
        return self._converted(nothing, last=True) if self._stream else nothing

    def _converted(self, block: Block, last: bool) -> Block:
        frames = np.ascontiguousarray(block.T, dtype=np.float32)
        out = self._stream.resample_chunk(frames, last=last)
        return np.ascontiguousarray(np.asarray(out, dtype=np.float32).reshape(-1, self._channels).T)
