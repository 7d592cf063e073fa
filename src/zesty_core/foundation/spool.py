"""A signal kept in a temporary file between two passes; gone when closed or when the program ends.

Spools grow by hundreds of megabytes. They stop before the disk is full: a reserve stays free, so that
the database and whatever else lies there can go on.
"""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import IO

import numpy as np

from zesty_core.foundation.errors import UnwritableAudio
from zesty_core.foundation.signal import BLOCK_SAMPLES, Block, SignalInfo

#: What stays free on a disk that spools grow on.
RESERVE_BYTES = 200_000_000
_LOOK_EVERY_BYTES = 32_000_000

_default_folder: Path | None = None


def keep_spools_in(folder: Path) -> None:
    """Put spools there, in this whole process, where no other folder is asked for."""
    global _default_folder  # noqa: PLW0603 - one place per process
    _default_folder = folder


class FreeSpace:
    """Asks a folder's disk for space before something grows on it."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._granted_bytes = 0

    def allows(self, size_bytes: int) -> bool:
        """Whether so much more may be written; the disk is looked at every 32 MB."""
        if size_bytes > self._granted_bytes:
            wanted = max(size_bytes, _LOOK_EVERY_BYTES)
            if shutil.disk_usage(self._folder).free < wanted + RESERVE_BYTES:
                return False
            self._granted_bytes = wanted
        self._granted_bytes -= size_bytes
        return True

    def reason(self) -> str:
        """Why not, in words that follow the name of what grows."""
        free_bytes = shutil.disk_usage(self._folder).free
        return (
            f"{free_bytes / 1e6:.0f} MB are free and {RESERVE_BYTES / 1e6:.0f} MB stay in reserve; "
            "make room and try again"
        )


class Spool:
    """Float32 samples on disk; first written in order, then readable as a source."""

    def __init__(self, info: SignalInfo, folder: Path | None) -> None:
        self.info = info
        self._folder = folder or _default_folder or Path(tempfile.gettempdir())
        self._frame_bytes = 4 * info.channels
        try:
            self._file: IO[bytes] = tempfile.TemporaryFile(  # noqa: SIM115 - closed by close()
                dir=self._folder, prefix="zesty-spool-"
            )
        except OSError as fault:
            raise self._fault(fault) from None
        self._space: FreeSpace | None = FreeSpace(self._folder)

    def write(self, block: Block) -> None:
        """Append a block."""
        if self._space and not self._space.allows(4 * block.size):
            raise UnwritableAudio("The working file", self._space.reason())
        try:
            self._file.write(np.ascontiguousarray(block.T, dtype=np.float32).data)
        except OSError as fault:
            raise self._fault(fault) from None

    def rewind(self) -> None:
        """Make everything written readable."""
        try:
            self._file.flush()
        except OSError as fault:
            raise self._fault(fault) from None

    def restart(self) -> None:
        """Write anew from the first sample; as many must follow. Costs less than another file."""
        self._file.seek(0)
        self._space = None  # it has all the space it takes

    def blocks(self, block_samples: int = BLOCK_SAMPLES) -> Iterator[Block]:
        """Blocks from the first to the last sample."""
        for start in range(0, self.info.length_samples, block_samples):
            yield self.read(start, start + block_samples)

    def read(self, start: int, stop: int) -> Block:
        """Samples ``start`` to ``stop``, clipped to what is there; several may read at a time."""
        start, stop = max(0, start), min(stop, self.info.length_samples)
        size, at = max(0, stop - start) * self._frame_bytes, start * self._frame_bytes
        data = os.pread(self._file.fileno(), size, at)
        frames = np.frombuffer(data, np.float32).reshape(-1, self.info.channels)
        return np.ascontiguousarray(frames.T)

    def close(self) -> None:
        """Give the disk space back."""
        self._file.close()

    def _fault(self, fault: OSError) -> UnwritableAudio:
        return UnwritableAudio(
            "The working file",
            f"no room for it in {self._folder} ({fault.strerror}); make room and retry",
        )
