"""What a person has marked in a recording beside its edits; it travels with the sound."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from zesty_core.foundation.repairs import Repairs
from zesty_core.foundation.signal import BLOCK_SAMPLES, Block, SignalInfo, Source
from zesty_core.foundation.speakers import Speakers


@dataclass(frozen=True)
class Marks:
    """In times of the source that they belong to."""

    speakers: Speakers | None = None
    repairs: Repairs | None = None


NO_MARKS = Marks()


class MarkedSource:
    """A source with marks."""

    def __init__(self, source: Source, marks: Marks) -> None:
        self._source, self.marks = source, marks

    @property
    def info(self) -> SignalInfo:
        """As of the source."""
        return self._source.info

    def blocks(self, block_samples: int = BLOCK_SAMPLES) -> Iterator[Block]:
        """As of the source."""
        return self._source.blocks(block_samples)

    def exact_blocks(self, block_samples: int = BLOCK_SAMPLES) -> Iterator[Any]:
        """As of the source, where it has such."""
        exact: Callable[[int], Iterator[Any]]
        exact = getattr(self._source, "exact_blocks", self._source.blocks)
        return exact(block_samples)

    def read(self, start: int, stop: int) -> Block:
        """As of the source."""
        return self._source.read(start, stop)


def marks_of(source: Source) -> Marks:
    """Marks that came with the sound."""
    marks: Marks = getattr(source, "marks", NO_MARKS)
    return marks
