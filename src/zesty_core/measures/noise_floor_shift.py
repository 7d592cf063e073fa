"""Where a room is louder for long than elsewhere: a fan that starts, a window that is opened, takes
from two rooms in one file.

Common practice, no published source: the quietest gap in every third of a minute tells the room there.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.runs import runs
from zesty_core.foundation.signal import Span
from zesty_core.foundation.units import power_to_db

#: A room so far under the voice needs no work (common practice, no source).
LEAST_CLEARANCE_DB = 35.0

#: Gaps between words last at least so long, and every part of a recording has some.
GAP_S = 0.15
_PART_S = 20.0
#: A room stays as it is for so many parts, and one part in which nobody pauses is no other room.
_LEAST_PARTS = 3
_LOUDER_DB = 4.0
#: What comes closer to the voice is somebody who does not pause, or music.
_UNDER_VOICE_DB = 12.0


@dataclass(frozen=True)
class NoiseFloorShift:
    """The longest stretch in which the room is louder, to about ten seconds, and by how much than
    where it is softest."""

    span: Span
    by_db: float

    def as_json(self) -> dict[str, float]:
        """JSON object."""
        return self.span.as_json() | {"by_db": round(self.by_db, 2)}


def noise_floor_shift(
    gaps: NDArray[np.float32], hop_s: float, voice_level_dbfs: float
) -> NoiseFloorShift | None:
    """The stretch; None where the room stays as it is.

    ``gaps`` is the power of what lasts ``GAP_S`` from each hop on, infinite where nothing was recorded.
    """
    parts = round(len(gaps) * hop_s / _PART_S)
    if parts < 2 * _LEAST_PARTS:
        return None
    edges = np.linspace(0, len(gaps), parts + 1).astype(np.int64)
    quietest = np.minimum.reduceat(gaps, edges[:-1])
    levels_db = np.array([power_to_db(float(p)) if np.isfinite(p) else np.inf for p in quietest])
    padded = np.pad(levels_db, _LEAST_PARTS // 2, mode="edge")
    levels_db = np.median(np.lib.stride_tricks.sliding_window_view(padded, _LEAST_PARTS), axis=1)
    softest_db = levels_db.min()
    within = levels_db <= voice_level_dbfs - _UNDER_VOICE_DB
    louder = runs((levels_db >= softest_db + _LOUDER_DB) & within)
    if not len(louder):
        return None
    first, stop = max(louder.tolist(), key=lambda run: run[1] - run[0])
    if stop - first < _LEAST_PARTS:
        return None
    by_db = float(np.median(levels_db[first:stop]) - softest_db)
    start_s, end_s = (float(round(edges[part] * hop_s)) for part in (first, stop))
    return NoiseFloorShift(Span(start_s, end_s), by_db)


def noise_floor_shift_words(louder: NoiseFloorShift) -> str:
    """Where the room is louder, and by how much."""
    start, end = (
        f"{round(t) // 60}:{round(t) % 60:02}" for t in (louder.span.start_s, louder.span.end_s)
    )
    by = f"{louder.by_db:.0f} dB louder than where it is softest"
    return f"From about {start} to {end} the room is {by}"


def is_heard_there(louder: NoiseFloorShift, clearance_db: float) -> bool:
    """Whether the room is loud enough there to matter, so far under the voice elsewhere."""
    return clearance_db - louder.by_db < LEAST_CLEARANCE_DB
