"""Listeners for compiled kernels; each takes up to a few seconds to compile."""

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
