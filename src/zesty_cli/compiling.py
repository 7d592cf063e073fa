"""Shows that the first run on a machine compiles its kernels, and how far it is."""

from __future__ import annotations

import sys

from zesty_core.runtime.compile_events import on_compiled

#: Kernels that a recipe of all kinds of steps compiles; others compile fewer.
_MOST = 99


class CompilingLine:
    """Counts kernels on stderr: one line, drawn anew on a terminal."""

    def __init__(self) -> None:
        self._count = 0

    def compiled(self) -> None:
        """Count one more."""
        self._count += 1
        if self._count == 1:
            print(
                "zesty: compiling for this processor, once; this takes up to a minute",
                file=sys.stderr,
            )
        if sys.stderr.isatty():
            text = f"\r\x1b[K{self._count} of at most {_MOST} kernels compiled"
            print(text, end="", file=sys.stderr, flush=True)


def announce_compiling() -> None:
    """Print a line for every kernel that this program compiles from now on."""
    on_compiled(CompilingLine().compiled)
