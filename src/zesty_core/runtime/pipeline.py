"""Blocks on their way through the stages of a pass, as many at a time as there are cores.

Each thread takes a block through all stages, then fetches the next one. A stage takes the blocks one at
a time and in order, so that it need not know of any of this, and the same comes out on one core.
"""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable, Iterable

from zesty_core.foundation.processor import Processor
from zesty_core.foundation.signal import Block
from zesty_core.runtime.cores import cores
from zesty_core.runtime.denormals import flush_to_zero, flushing_to_zero

#: More threads would mostly wait for the longest stage.
_MOST_THREADS = 4


def _no_watch(_done_samples: int) -> None:
    pass


class Pipeline:
    """Stages are added in order, then :meth:`run` takes all ``blocks`` through them."""

    def __init__(self, blocks: Iterable[Block]) -> None:
        self._blocks = iter(blocks)
        self._fetched_samples = 0
        self._stages: list[Callable[[Block], Block]] = []
        self._ends: list[tuple[int, Processor]] = []

    def process_blocks(self, processor: Processor) -> None:
        """Further stages get what ``processor`` makes of the blocks, and in the end its rest."""
        self._stages.append(processor.push)
        self._ends.append((len(self._stages), processor))

    def past(self, call: Callable[[Block], object]) -> None:
        """Show ``call`` each block; further stages get it as it is."""

        def show(block: Block) -> Block:
            call(block)
            return block

        self._stages.append(show)

    def run(self, watch: Callable[[int], object] = _no_watch) -> None:
        """Work until all is done, or a stage or ``watch`` raises an error; no thread is left then.

        ``watch`` is called in the caller's thread with the samples that have been through the stages.
        """
        threads = min(cores(), _MOST_THREADS)
        with flushing_to_zero():
            if threads == 1:
                while (block := self._fetch()) is not None:
                    self._take(block)
                    watch(self._fetched_samples)
            else:
                _Threads(threads, len(self._stages) + 1, self._carry).run(watch)
            for place, processor in self._ends:
                self._take(processor.finish(), place)

    def _fetch(self) -> Block | None:
        block = next(self._blocks, None)
        if block is not None:
            self._fetched_samples += block.shape[1]
        return block

    def _take(self, block: Block, first: int = 0) -> None:
        for stage in self._stages[first:]:
            if not block.shape[1]:
                return
            block = stage(block)

    def _carry(self, turns: _Turns, watch: Callable[[int], object]) -> None:
        """What one thread does: block after block."""
        while True:
            turns.wait(0)
            block, done_samples = self._fetch(), self._fetched_samples
            turns.pass_on(0)
            if block is None:
                return
            for place, stage in enumerate(self._stages, 1):
                turns.wait(place)
                # What holds sound back may have nothing to give.
                if block.shape[1]:
                    block = stage(block)
                turns.pass_on(place)
            watch(done_samples)


class _Stopped(Exception):  # noqa: N818 - nothing is wrong in the thread that sees it
    """Another thread has failed."""


class _Turns:
    """One thread's turns at each place of the line, and how to pass them on to the next thread."""

    def __init__(
        self, own: list[queue.SimpleQueue[bool]], following: list[queue.SimpleQueue[bool]]
    ) -> None:
        self._own, self._following = own, following

    def wait(self, place: int) -> None:
        """Until it is this thread's turn."""
        if not self._own[place].get():
            raise _Stopped

    def pass_on(self, place: int) -> None:
        """It is the next thread's turn."""
        self._following[place].put(True)


class _Threads:
    """The caller's thread and others doing the same in turns."""

    def __init__(
        self,
        count: int,
        places: int,
        work: Callable[[_Turns, Callable[[int], object]], None],
    ) -> None:
        self._work, self._errors = work, list[BaseException]()
        self._queues = [[queue.SimpleQueue[bool]() for _ in range(places)] for _ in range(count)]
        following = [*self._queues[1:], self._queues[0]]
        self._turns = [_Turns(*pair) for pair in zip(self._queues, following, strict=True)]
        for first in self._queues[0]:
            first.put(True)

    def run(self, watch: Callable[[int], object]) -> None:
        """Until all have ended; raises the first error."""
        others = [
            threading.Thread(target=self._other, args=(turns,), daemon=True)
            for turns in self._turns[1:]
        ]
        for other in others:
            other.start()
        self._until_error(self._turns[0], watch)
        for other in others:
            other.join()
        if self._errors:
            raise self._errors[0]

    def _other(self, turns: _Turns) -> None:
        flush_to_zero()
        self._until_error(turns, _no_watch)

    def _until_error(self, turns: _Turns, watch: Callable[[int], object]) -> None:
        try:
            self._work(turns, watch)
        except _Stopped:
            pass
        except BaseException as error:
            self._errors.append(error)
            for own in self._queues:
                for place in own:
                    place.put(False)
