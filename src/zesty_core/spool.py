"""A signal kept in a temporary file between two passes; gone when closed or when the program ends."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import IO

import numpy as np

from zesty_core.errors import UnwritableAudio
from zesty_core.signal import BLOCK_SAMPLES, Block, SignalInfo


class Spool:
    """Float32 samples on disk; first written in order, then readable as a source."""

    def __init__(self, info: SignalInfo, folder: Path | None) -> None:
        self.info = info
        self._folder = folder
        self._frame_bytes = 4 * info.channels
        try:
            self._file: IO[bytes] = tempfile.TemporaryFile(  # noqa: SIM115 - closed by close()
                dir=folder, prefix="zesty-spool-"
            )
        except OSError as fault:
            raise self._fault(fault) from None

    def write(self, block: Block) -> None:
        """Append a block."""
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
        where = self._folder or tempfile.gettempdir()
        return UnwritableAudio(
            "The working file", f"no room for it in {where} ({fault.strerror}); make room and retry"
        )
