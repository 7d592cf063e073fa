"""Says that the first run on a machine compiles its kernels, and how far it is."""

from __future__ import annotations

import sys

from zesty_core.runtime.kept_code import on_compiled

#: A recipe of all kinds of steps uses so many; fewer are usual.
_ABOUT = 80


class CompilingLine:
    """Counts kernels on stderr: one line, drawn anew on a terminal."""

    def __init__(self) -> None:
        self._count = 0

    def compiled(self) -> None:
        """Another one is there."""
        self._count += 1
        if self._count == 1:
            print(
                "zesty: compiling for this processor, once; this takes up to a minute",
                file=sys.stderr,
            )
        if sys.stderr.isatty():
            text = f"\r\x1b[Kcompiled {self._count} of about {_ABOUT} parts or fewer"
            print(text, end="", file=sys.stderr, flush=True)


def announce_compiling() -> None:
    """From now on, in this program."""
    on_compiled(CompilingLine().compiled)
