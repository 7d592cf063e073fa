"""``-`` for standard input and output.

Files are read more than once, so a stream is kept on disk first.
"""

from __future__ import annotations

import shutil
import sys
import tempfile
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path

from zesty_core.audio.reader import AudioFile
from zesty_core.foundation.errors import BadInput, UnwritableAudio

STANDARD = "-"
_PIECE_BYTES = 1 << 20


def opened(name: str, stack: ExitStack) -> AudioFile:
    """The sound file of this name, or what comes in by standard input."""
    if name != STANDARD:
        return AudioFile(name)
    folder = Path(stack.enter_context(tempfile.TemporaryDirectory(prefix="zesty-")))
    path = folder / "standard-input"
    try:
        with path.open("wb") as file:
            shutil.copyfileobj(sys.stdin.buffer, file, _PIECE_BYTES)
    except OSError as fault:
        raise UnwritableAudio("standard input", f"it cannot be kept ({fault.strerror})") from None
    if path.stat().st_size == 0:
        raise BadInput("standard input: is empty", path="in")
    return AudioFile(path, "standard input")


@contextmanager
def out_path(name: str) -> Iterator[Path]:
    """Where to write: the named file, or a WAV file that goes to standard output afterwards."""
    if name != STANDARD:
        yield Path(name)
        return
    with tempfile.TemporaryDirectory(prefix="zesty-") as folder:
        path = Path(folder) / "standard-output.wav"
        yield path
        with path.open("rb") as file:
            shutil.copyfileobj(file, sys.stdout.buffer, _PIECE_BYTES)
        sys.stdout.buffer.flush()
