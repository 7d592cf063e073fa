"""How many processors one piece of work may keep busy.

Alone, a run spreads over all of them. Where files are worked on side by side, each keeps to its own:
that is the faster way through a pile.
"""

from __future__ import annotations

import math
import os
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path

_kept_to: int | None = None
_CGROUP = Path("/sys/fs/cgroup")


def cores() -> int:
    """Processors to use, at least one."""
    return _kept_to or allowed_cores()


@cache
def allowed_cores() -> int:
    """Processors that the system lets this process use: its affinity, and its container's share."""
    share = _container_share(_CGROUP)
    return max(1, math.ceil(min(len(os.sched_getaffinity(0)), share)))


def _container_share(root: Path) -> float:
    """Processor time of a container per time, by control groups of either version; else infinity."""
    try:
        quota, period = (root / "cpu.max").read_text().split()[:2]
    except (OSError, ValueError):
        try:
            quota = (root / "cpu" / "cpu.cfs_quota_us").read_text()
            period = (root / "cpu" / "cpu.cfs_period_us").read_text()
        except OSError:
            return math.inf
    try:
        share = float(quota) / float(period)
    except (ValueError, ZeroDivisionError):  # "max": no limit
        return math.inf
    return share if share > 0 else math.inf


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
