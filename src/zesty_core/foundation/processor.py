"""What works on a stream of sound block by block."""

from __future__ import annotations

from typing import Any, Protocol

from zesty_core.foundation.signal import Block


class Processor(Protocol):
    """Running state of one step on one signal.

    All pushes and the finish together return exactly as many samples as were pushed, aligned with
    them: a processor that looks ahead holds samples back and gives them at the end.
    """

    def push(self, block: Block) -> Block:
        """Take a block, give what is ready (possibly nothing)."""

    def finish(self) -> Block:
        """Give the rest."""

    def report(self) -> dict[str, Any]:
        """What was done, in numbers."""
