"""A ZIP archive made while it is sent; stored, not compressed: sound does not shrink."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterator
from pathlib import Path

_CHUNK_BYTES = 1 << 20
#: Name inside the archive, and a file or the bytes themselves.
Entry = tuple[str, Path | bytes]


class _Outlet(io.RawIOBase):
    """Collects what the archiver writes until it is taken."""

    def __init__(self) -> None:
        self._parts: list[bytes] = []

    def writable(self) -> bool:
        return True

    def write(self, data: object) -> int:
        part = bytes(data)  # type: ignore[call-overload]
        self._parts.append(part)
        return len(part)

    def take(self) -> bytes:
        data, self._parts = b"".join(self._parts), []
        return data


def zip_stream(entries: list[Entry]) -> Iterator[bytes]:
    """Bytes of an archive of named files and texts; memory does not grow with the files' size."""
    outlet = _Outlet()
    with zipfile.ZipFile(outlet, "w", zipfile.ZIP_STORED, allowZip64=True) as archive:
        for name, path in entries:
            if isinstance(path, bytes):
                archive.writestr(name, path)
                yield outlet.take()
                continue
            info = zipfile.ZipInfo.from_file(path, name)
            with path.open("rb") as file, archive.open(info, "w", force_zip64=True) as inside:
                while chunk := file.read(_CHUNK_BYTES):
                    inside.write(chunk)
                    yield outlet.take()
            yield outlet.take()
    yield outlet.take()
