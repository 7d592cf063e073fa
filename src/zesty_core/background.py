"""Threads that take work off the main one, in order and never far behind or ahead."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable, Iterable, Iterator
from typing import Any, Generic, Self, TypeVar

from zesty_core.cores import cores
from zesty_core.dsp.denormals import flush_to_zero

T = TypeVar("T")
#: Items that wait between two threads. Blocks are long, so a few keep both busy.
_DEPTH = 2
_LOOK_UP_S = 0.2


class _Handed(Generic[T]):
    """Items on their way from one thread to another, a few at a time.

    Two of the interpreter's plain queues, of items and of room for them: a queue with a bound of its
    own takes three times as long, and the other threads' time with it.
    """

    def __init__(self) -> None:
        self._items: queue.SimpleQueue[T] = queue.SimpleQueue()
        self._room: queue.SimpleQueue[None] = queue.SimpleQueue()
        for _ in range(_DEPTH):
            self._room.put(None)

    def put(self, item: T, timeout_s: float | None = None) -> bool:
        """Whether there was room within this time."""
        try:
            self._room.get(timeout=timeout_s)
        except queue.Empty:
            return False
        self._items.put(item)
        return True

    def get(self, timeout_s: float | None = None) -> T:
        """The next item; raises ``queue.Empty`` when none comes within this time."""
        item = self._items.get(timeout=timeout_s)
        self._room.put(None)
        return item


class InOrder:
    """Runs calls one after the other in its own thread, up to the first error."""

    def __init__(self) -> None:
        self._calls: _Handed[tuple[Callable[..., Any], tuple[Any, ...]] | None] = _Handed()
        self._error: BaseException | None = None
        self._thread = threading.Thread(target=self._work, daemon=True)
        self._thread.start()

    def submit(self, call: Callable[..., Any], *arguments: Any) -> None:
        """Queue a call; waits when the thread is too far behind."""
        self._calls.put((call, arguments))

    def ended(self) -> BaseException | None:
        """Let everything queued finish and end the thread; the error that stopped it, if any."""
        self._calls.put(None)
        self._thread.join()
        return self._error

    def _work(self) -> None:
        flush_to_zero()
        while (entry := self._calls.get()) is not None:
            if self._error is not None:
                continue
            call, arguments = entry
            try:
                call(*arguments)
            except BaseException as error:
                self._error = error


class ReadAhead(Generic[T]):
    """Iterates over ``items`` with a thread working some ahead; ends with it or by :meth:`close`."""

    def __init__(self, items: Iterable[T]) -> None:
        self._ready: _Handed[tuple[T | None, BaseException | None]] = _Handed()
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._work, args=(items,), daemon=True)
        self._thread.start()

    def __iter__(self) -> Iterator[T]:
        try:
            while not self._stop.is_set():
                try:
                    item, error = self._ready.get(_LOOK_UP_S)
                except queue.Empty:
                    continue
                if error is not None:
                    raise error
                if item is None:
                    return
                yield item
        finally:
            self._stop.set()

    def stop(self) -> None:
        """Let the thread end as soon as it looks up."""
        self._stop.set()

    def close(self) -> None:
        """Stop the thread, wherever it is, and wait for its end."""
        self.stop()
        self._thread.join()

    def _work(self, items: Iterable[T]) -> None:
        flush_to_zero()
        try:
            for item in items:
                if not self._give((item, None)):
                    return
            self._give((None, None))
        except BaseException as error:
            self._give((None, error))

    def _give(self, entry: tuple[T | None, BaseException | None]) -> bool:
        while not self._stop.is_set():
            if self._ready.put(entry, _LOOK_UP_S):
                return True
        return False


class SideBySide:
    """Stages of one line of work, each in a thread of its own, and work beside the line.

    A context: at its end, by an error too, every thread has ended. An error of the work beside the
    line is raised there. On a single core everything is done in the caller's thread.
    """

    def __enter__(self) -> Self:
        self._alone = cores() == 1
        self._stages: list[ReadAhead[Any]] = []
        self._beside: list[InOrder] = []
        return self

    def stage(self, items: Iterable[T]) -> Iterable[T]:
        """The same items, made in a thread."""
        if self._alone:
            return items
        made = ReadAhead(items)
        self._stages.append(made)
        return made

    def beside(self, call: Callable[[T], object]) -> Callable[[T], object]:
        """The same call, handed to a thread of its own that does its calls in order."""
        if self._alone:
            return call
        thread = InOrder()
        self._beside.append(thread)
        return lambda item: thread.submit(call, item)

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: Any
    ) -> None:
        for stage in self._stages:
            stage.stop()
        # The threads beside the line take work until no stage can hand them any.
        for stage in self._stages:
            stage.close()
        faults = [fault for thread in self._beside if (fault := thread.ended())]
        if faults:
            raise faults[0]
