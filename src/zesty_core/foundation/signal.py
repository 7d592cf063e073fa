"""What a stream of sound is besides its samples."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.units import seconds_to_samples

#: A block of sound: float32, shape (channels, samples), 1.0 is full scale.
Block = NDArray[np.float32]

#: Samples in a block when nothing else is asked for. Smaller ones cost more in handing over than
#: they gain in the processor's cache (measured: a quarter more work at 65 536).
BLOCK_SAMPLES = 262_144


@dataclass(frozen=True)
class SignalInfo:
    """Rate, channels and length of a signal."""

    sample_rate_hz: int
    channels: int
    length_samples: int

    @property
    def duration_s(self) -> float:
        """Length in seconds."""
        return self.length_samples / self.sample_rate_hz


@dataclass(frozen=True)
class Span:
    """A stretch of a recording in seconds, start included, end not."""

    start_s: float
    end_s: float

    @classmethod
    def checked(cls, start_s: float, end_s: float, name: str, duration_s: float) -> Span:
        """Return a span inside ``0..duration_s`` or raise :class:`BadInput`."""
        if not 0.0 <= start_s < end_s <= duration_s + 1e-6:
            raise BadInput(
                f"{name}: {start_s:g} to {end_s:g} s must lie within 0 and {duration_s:.3f} s, "
                "the start before the end",
                path=name,
            )
        return cls(start_s, end_s)

    @property
    def duration_s(self) -> float:
        """Length in seconds."""
        return self.end_s - self.start_s

    def as_json(self) -> dict[str, float]:
        """JSON object."""
        return {"start_s": self.start_s, "end_s": self.end_s}

    def samples(self, sample_rate_hz: int) -> tuple[int, int]:
        """First sample and the one after the last."""
        start = seconds_to_samples(self.start_s, sample_rate_hz)
        return start, max(start + 1, seconds_to_samples(self.end_s, sample_rate_hz))


#: Spans as documents hold them: objects with ``start_s`` and ``end_s``.
Spans = Sequence[Mapping[str, Any]]


class Source(Protocol):
    """Anything that can be read from the start in blocks, as often as wanted."""

    @property
    def info(self) -> SignalInfo:
        """Rate, channels and length."""

    def blocks(self, block_samples: int = BLOCK_SAMPLES) -> Iterator[Block]:
        """Blocks from the first to the last sample."""

    def read(self, start: int, stop: int) -> Block:
        """Samples ``start`` to ``stop``, clipped to what is there."""


class ReadSource(ABC):
    """A source that is read by position; its blocks follow from that."""

    @property
    @abstractmethod
    def info(self) -> SignalInfo:
        """Rate, channels and length."""

    @abstractmethod
    def read(self, start: int, stop: int) -> Block:
        """Samples ``start`` to ``stop``, clipped to what is there."""

    def blocks(self, block_samples: int = BLOCK_SAMPLES) -> Iterator[Block]:
        """Blocks from the first to the last sample."""
        for start in range(0, self.info.length_samples, block_samples):
            yield self.read(start, start + block_samples)


class ArraySource:
    """A signal already in memory."""

    def __init__(self, samples: Block, sample_rate_hz: int) -> None:
        self._samples = np.ascontiguousarray(np.atleast_2d(samples), dtype=np.float32)
        self._info = SignalInfo(sample_rate_hz, *self._samples.shape)

    @property
    def info(self) -> SignalInfo:
        """Rate, channels and length."""
        return self._info

    def blocks(self, block_samples: int = BLOCK_SAMPLES) -> Iterator[Block]:
        """Blocks from the first to the last sample."""
        for start in range(0, self._info.length_samples, block_samples):
            yield self._samples[:, start : start + block_samples]

    def read(self, start: int, stop: int) -> Block:
        """Samples ``start`` to ``stop``, clipped to what is there."""
        return self._samples[:, max(0, start) : max(0, stop)]


def joined(blocks: Iterable[Block], channels: int) -> Block:
    """All blocks in one array; shape ``(channels, 0)`` when there is none.

    Parameters
    ----------
    blocks : iterable of arrays, shape (channels, samples)
        May be empty.
    channels : int
        Channels of the answer where there is no block.

    Returns
    -------
    samples : array, shape (channels, samples)
        32-bit float.
    """
    pieces = list(blocks)
    return np.concatenate(pieces, axis=1) if pieces else np.zeros((channels, 0), np.float32)
