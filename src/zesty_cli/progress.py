"""One line of progress on a terminal; silent elsewhere."""

from __future__ import annotations

import sys
import time
from types import TracebackType
from typing import Self

from zesty_core.chain.runner import Progress

_EVERY_S = 0.1


class ProgressLine:
    """Context that draws share, speed and time left on stderr."""

    def __init__(self, duration_s: float, is_quiet: bool = False) -> None:
        self._duration_s = duration_s
        self._visible = sys.stderr.isatty() and not is_quiet
        self._start = self._last = time.monotonic()

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

    def show(self, progress: Progress) -> None:
        """Draw, but not more often than an eye can follow."""
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
