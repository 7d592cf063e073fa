"""Who wants to know that a kernel was compiled, which takes about a second."""

from __future__ import annotations

from collections.abc import Callable

_listeners: list[Callable[[], object]] = []


def on_compiled(listener: Callable[[], object]) -> None:
    """Call ``listener`` after each kernel that is compiled in this process."""
    _listeners.append(listener)


def compiled() -> None:
    """Call all listeners."""
    for listener in _listeners:
        listener()
