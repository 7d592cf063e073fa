"""What the header of a WAV file promises, read before any sample is.

The decoder silently shortens a truncated WAV; a user who lost the end of a take must learn of it.
RIFF/RF64 layout: EBU Tech 3306.
"""

from __future__ import annotations

import struct
from dataclasses import dataclass
from pathlib import Path

from zesty_core.foundation.units import format_time

_UNKNOWN_SIZE = 0xFFFFFFFF


@dataclass(frozen=True)
class WaveHeader:
    """Promised and present bytes of the data chunk; ``bytes_per_second`` turns them into time."""

    promised_bytes: int | None
    present_bytes: int
    bytes_per_second: int

    @property
    def is_truncated(self) -> bool:
        """Whether the file ends before the data the header promises."""
        return self.promised_bytes is not None and self.present_bytes < self.promised_bytes

    @property
    def part_there(self) -> str:
        """How much of the promised data is there, in words: as time, or what is missing if that is
        too little to show in it."""
        promised, rate = self.promised_bytes or 0, max(self.bytes_per_second, 1)
        there, whole = (format_time(size / rate) for size in (self.present_bytes, promised))
        if there != whole:
            return f"{there} of the {whole} in its header are there"
        return f"{promised - self.present_bytes} of the {promised} bytes in its header are missing"


def read_wave_header(path: Path) -> WaveHeader | None:
    """Header of a RIFF, RF64 or BW64 wave file; None for every other file."""
    file_bytes = path.stat().st_size
    with path.open("rb") as file:
        outer = file.read(12)
        if len(outer) < 12 or outer[:4] not in (b"RIFF", b"RF64", b"BW64") or outer[8:] != b"WAVE":
            return None
        bytes_per_second = 0
        long_size: int | None = None
        while len(head := file.read(8)) == 8:
            name, size = head[:4], struct.unpack("<I", head[4:])[0]
            body = file.tell()
            if name == b"ds64":
                long_size = _number(file.read(16)[8:], "<Q")
            elif name == b"fmt ":
                bytes_per_second = _number(file.read(12)[8:], "<I")
            elif name == b"data":
                promised = long_size if size == _UNKNOWN_SIZE else size
                return WaveHeader(promised, file_bytes - body, bytes_per_second)
            # Chunks are padded to an even length.
            file.seek(body + size + (size & 1))
    return None


def _number(data: bytes, layout: str) -> int:
    """A number of the header; 0 where the file ends before it, which the decoder then refuses."""
    size = struct.calcsize(layout)
    return int(struct.unpack(layout, data)[0]) if len(data) == size else 0


def clear_peak_time(path: Path) -> None:
    """Set the time of writing in a PEAK chunk to zero: the same sound must give the same bytes.

    The library that writes float files puts the chunk before the samples; its layout is chunk name,
    size, version, time.
    """
    with path.open("r+b") as file:
        outer = file.read(12)
        if outer[:4] not in (b"RIFF", b"RF64") or outer[8:] != b"WAVE":
            return
        while len(head := file.read(8)) == 8 and head[:4] != b"data":
            body, size = file.tell(), struct.unpack("<I", head[4:])[0]
            if head[:4] == b"PEAK":
                file.seek(body + 4)
                file.write(bytes(4))
                return
            file.seek(body + size + size % 2)
