"""One thread that takes work off the main one, in order and never far behind."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable, Iterable, Iterator
from typing import Any, Generic, TypeVar

from zesty_core.dsp.denormals import flush_to_zero

T = TypeVar("T")
_DEPTH = 6


class InOrder:
    """Runs calls one after the other in its own thread; errors come back at :meth:`wait`."""

    def __init__(self) -> None:
        self._calls: queue.Queue[tuple[Callable[..., Any], tuple[Any, ...]] | None] = queue.Queue(
            _DEPTH
        )
        self._error: BaseException | None = None
        self._thread = threading.Thread(target=self._work, daemon=True)
        self._thread.start()

    def submit(self, call: Callable[..., Any], *arguments: Any) -> None:
        """Queue a call; waits when the thread is too far behind."""
        self._calls.put((call, arguments))

    def wait(self) -> None:
        """Let everything queued finish and end the thread."""
        self._calls.put(None)
        self._thread.join()
        if self._error is not None:
            raise self._error

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
    """Iterates over ``items`` with a thread working some ahead."""

    def __init__(self, items: Iterable[T]) -> None:
        self._ready: queue.Queue[tuple[T | None, BaseException | None]] = queue.Queue(_DEPTH)
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._work, args=(items,), daemon=True)
        self._thread.start()

    def __iter__(self) -> Iterator[T]:
        try:
            while True:
                item, error = self._ready.get()
                if error is not None:
                    raise error
                if item is None:
                    return
                yield item
        finally:
            self._stop.set()

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
            try:
                self._ready.put(entry, timeout=0.2)
            except queue.Full:
                continue
            return True
        return False
