"""How many processors one piece of work may keep busy.

Alone, a run spreads over all of them. Where files are worked on side by side, each keeps to its own:
that is the faster way through a pile.
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager

_kept_to: int | None = None


def cores() -> int:
    """Processors to use, at least one."""
    return _kept_to or os.cpu_count() or 1


def keep_to(count: int | None) -> None:
    """Use so many from now on, in the whole process; None lifts the limit."""
    global _kept_to  # noqa: PLW0603 - one limit per process
    _kept_to = count


@contextmanager
def kept_to(count: int | None) -> Iterator[None]:
    """The same inside the context; None changes nothing."""
    before = _kept_to
    keep_to(count or before)
    try:
        yield
    finally:
        keep_to(before)
