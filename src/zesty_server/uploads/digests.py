"""SHA-256 of files while they come in, so that nobody waits for it at the end.

Kept in memory only: what came in before a restart, or at another process, is unknown here.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from hashlib import _Hash


@dataclass
class RunningDigest:
    """Digest of the first ``size_bytes`` of a file."""

    size_bytes: int = 0
    _digest: _Hash = field(default_factory=hashlib.sha256)

    def update(self, chunk: bytes) -> None:
        """Take the next bytes into account."""
        self._digest.update(chunk)
        self.size_bytes += len(chunk)

    def hexdigest(self) -> str:
        """Of all so far."""
        return self._digest.hexdigest()


_running: dict[str, RunningDigest] = {}


def digest_so_far(upload_id: str, offset: int) -> RunningDigest | None:
    """The digest of what came in before ``offset``; None where it is not known."""
    if offset == 0:
        _running[upload_id] = RunningDigest()
    running = _running.get(upload_id)
    return running if running is not None and running.size_bytes == offset else None


def forget_digest(upload_id: str) -> None:
    """The file is whole, or given up."""
    _running.pop(upload_id, None)
