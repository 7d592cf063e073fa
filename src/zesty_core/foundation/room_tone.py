"""A sample of the room: spans of the recording, or sound from elsewhere."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass

import numpy as np

from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.signal import Block, SignalInfo, Span

LEAST_S = 0.05
#: More teaches nothing more.
LONGEST_S = 20.0


@dataclass(frozen=True)
class RoomTone:
    """Either ``spans`` of the recording that is worked on, or ``samples`` (channels, samples)."""

    spans: tuple[Span, ...] = ()
    samples: Block | None = None
    sample_rate_hz: int = 0
    #: Where ``samples`` come from, for the receipt.
    source: str = "other recording"

    @property
    def mark(self) -> str:
        """Stands for it in the mark of a delivery."""
        if self.samples is None:
            return str([(span.start_s, span.end_s) for span in self.spans])
        sound = np.ascontiguousarray(self.samples).tobytes()
        return f"{hashlib.sha256(sound).hexdigest()} at {self.sample_rate_hz} Hz"

    def checked(self, info: SignalInfo) -> RoomTone:
        """Raise :class:`BadInput` when it lies outside the recording or is too short."""
        for span in self.spans:
            Span.checked(span.start_s, span.end_s, "room tone", info.duration_s)
        if self.samples is not None:
            length_s = self.samples.shape[1] / self.sample_rate_hz
        else:
            length_s = sum(span.duration_s for span in self.spans)
        if length_s < LEAST_S:
            raise BadInput(
                f"room tone: must last at least {LEAST_S:g} s, got {length_s:.3f} s",
                path="room_tone",
            )
        return self
