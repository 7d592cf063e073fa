"""From the chain's sound to the file's: rate and number of channels."""

from __future__ import annotations

import numpy as np

from zesty_core.audio.encoding import Writer
from zesty_core.audio.resample import Resampler
from zesty_core.foundation.signal import Block, SignalInfo


class ConvertingSink:
    """Takes the finished blocks of a chain and hands them on as the file wants them.

    A mono sound becomes stereo on both sides alike.
    """

    def __init__(self, writer: Writer, info: SignalInfo, rate_hz: int, channels: int) -> None:
        self._writer, self._channels = writer, channels
        self._resampler = Resampler(info.sample_rate_hz, rate_hz, info.channels)

    def write(self, block: Block) -> None:
        """Convert and write a block."""
        self._hand_on(self._resampler.push(block))

    def finish(self) -> None:
        """Write what the rate conversion still holds."""
        self._hand_on(self._resampler.finish())

    def _hand_on(self, block: Block) -> None:
        if not block.shape[1]:
            return
        if len(block) < self._channels:
            block = np.repeat(block, self._channels, axis=0)
        self._writer.write(block)
