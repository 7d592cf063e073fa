"""One channel out of two (the mean, or the one with the clearer voice), and two out of one."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from zesty_core.foundation.signal import BLOCK_SAMPLES, Block, SignalInfo, Source
from zesty_core.measures.full_meter import FullMeter
from zesty_core.measures.report import LEVEL_PARTS

#: Ways to make mono of a stereo recording.
MONO_CHOICES = ("mean", "left", "right", "better")


class MonoSource:
    """``source`` as mono; a mono source stays as it is.

    ``choice`` is one of MONO_CHOICES; ``better`` is settled by :func:`better_channel`.
    """

    def __init__(self, source: Source, choice: str) -> None:
        if choice == "better":
            choice = better_channel(source)
        self._source, self._choice = source, choice
        info = source.info
        self.info = SignalInfo(info.sample_rate_hz, 1, info.length_samples)

    def blocks(self, block_samples: int = BLOCK_SAMPLES) -> Iterator[Block]:
        """Blocks from the first to the last sample."""
        for block in self._source.blocks(block_samples):
            yield self._mixed(block)

    def read(self, start: int, stop: int) -> Block:
        """Samples ``start`` to ``stop``, clipped to what is there."""
        return self._mixed(self._source.read(start, stop))

    def _mixed(self, block: Block) -> Block:
        if len(block) == 1:
            return block
        match self._choice:
            case "left":
                return np.ascontiguousarray(block[:1])
            case "right":
                return np.ascontiguousarray(block[1:])
            case _:
                return np.asarray(block.mean(axis=0, keepdims=True), dtype=np.float32)


class SomeChannels:
    """``count`` channels of a source from ``first`` on, such as one side of a pair."""

    def __init__(self, source: Source, first: int, count: int) -> None:
        self._source, self._kept = source, slice(first, first + count)
        info = source.info
        self.info = SignalInfo(info.sample_rate_hz, count, info.length_samples)

    def blocks(self, block_samples: int = BLOCK_SAMPLES) -> Iterator[Block]:
        """Blocks from the first to the last sample."""
        for block in self._source.blocks(block_samples):
            yield np.ascontiguousarray(block[self._kept])

    def read(self, start: int, stop: int) -> Block:
        """Samples ``start`` to ``stop``, clipped to what is there."""
        return np.ascontiguousarray(self._source.read(start, stop)[self._kept])


class DoubledSource:
    """A mono source on both channels."""

    def __init__(self, source: Source) -> None:
        self._source = source
        info = source.info
        self.info = SignalInfo(info.sample_rate_hz, 2, info.length_samples)

    def blocks(self, block_samples: int = BLOCK_SAMPLES) -> Iterator[Block]:
        """Blocks from the first to the last sample."""
        for block in self._source.blocks(block_samples):
            yield np.repeat(block, 2, axis=0)

    def read(self, start: int, stop: int) -> Block:
        """Samples ``start`` to ``stop``, clipped to what is there."""
        return np.repeat(self._source.read(start, stop), 2, axis=0)


def better_channel(source: Source) -> str:
    """``left`` or ``right``, whichever has more distance from voice to noise.

    Where that cannot be determined, the louder one.
    """
    info = source.info
    if info.channels == 1:
        return "mean"
    one = SignalInfo(info.sample_rate_hz, 1, info.length_samples)
    meters = [FullMeter(one, parts=LEVEL_PARTS), FullMeter(one, parts=LEVEL_PARTS)]
    for block in source.blocks():
        for meter, samples in zip(meters, block, strict=True):
            meter.push(np.ascontiguousarray(samples[None]))
    measures = [meter.finish() for meter in meters]
    if None not in [m.clearance_db for m in measures]:
        left, right = (m.clearance_db or 0.0 for m in measures)
    else:
        left, right = (m.rms_dbfs if m.rms_dbfs is not None else -999.0 for m in measures)
    return "left" if left >= right else "right"


def spread(source: Source, channels: int) -> Source:
    """The source, on both channels where two are wanted and it has one.

    Parameters
    ----------
    source : Source
        One channel or two.
    channels : int
        How many are wanted.

    Returns
    -------
    source : Source
        The same object where nothing has to be done.
    """
    return DoubledSource(source) if channels > source.info.channels else source
