"""One line of progress on a terminal; silent elsewhere."""

from __future__ import annotations

import sys
import time
from types import TracebackType
from typing import Self

from zesty_core.chain.runner import Progress

_EVERY_S = 0.1


class ProgressLine:
    """Context that draws share, speed and time left on stderr; where it is verbose, a line for each
    part of the work with the time it took instead."""

    def __init__(self, duration_s: float, is_quiet: bool = False, is_verbose: bool = False) -> None:
        self._duration_s = duration_s
        self._verbose = is_verbose
        self._visible = sys.stderr.isatty() and not is_quiet and not is_verbose
        self._start = self._last = self._part_start = time.monotonic()
        self._part = ""

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        if self._visible:
            sys.stderr.write("\r\x1b[K")
        if self._verbose:
            self._end_part("")

    def show(self, progress: Progress) -> None:
        """Draw, but not more often than an eye can follow."""
        if self._verbose and progress.doing != self._part:
            self._end_part(progress.doing)
        now = time.monotonic()
        if not self._visible or now - self._last < _EVERY_S:
            return
        self._last = now
        spent = now - self._start
        speed = self._duration_s * progress.share / spent
        left = spent / max(progress.share, 1e-3) - spent
        sys.stderr.write(
            f"\r\x1b[K{progress.share:5.0%}  {speed:.0f} times faster than listening, "
            f"about {left:.0f} s left  {progress.doing}"
        )
        sys.stderr.flush()

    def _end_part(self, following: str) -> None:
        now = time.monotonic()
        if self._part:
            print(f"{now - self._part_start:8.2f} s  {self._part}", file=sys.stderr)
        self._part, self._part_start = following, now
