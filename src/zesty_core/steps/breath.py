"""Breath: breaths between phrases go down by a set depth, with soft edges."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from zesty_core.dsp.breaths import find_breaths
from zesty_core.dsp.fixed_hops import hop_samples
from zesty_core.foundation.settings import number
from zesty_core.foundation.signal import SignalInfo
from zesty_core.foundation.units import db_to_factor
from zesty_core.steps.base import Facts, Guide, StepInput
from zesty_core.steps.repair import Event, RepairStep, Samples

_FADE_S = 0.04
#: Rooms are no softer than this.
_SOFTEST_ROOM_DBFS = -85.0


@dataclass(frozen=True, kw_only=True)
class Breath(RepairStep):
    """Turns breaths down."""

    type = "breath"
    label = "Breath"
    summary = "turns breaths between phrases down"
    guide = Guide(
        "Finds breaths between phrases and turns each down by a set depth, with soft edges and never "
        "below the room. A gate would chop them.",
        (
            "After noise reduction, before compressor and leveller, which lift breaths.",
            "10 dB for speech that stays natural, 18 dB and more for announcements.",
        ),
        "A story told without breath sounds dead. Whispering and laughter are mostly left alone; hear "
        "what is removed.",
    )
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "Hardly less": {"depth_db": 6.0},
        "Almost gone": {"depth_db": 20.0},
    }
    work_ns = 40.0
    #: The voice around a breath.
    reach_hops = 160

    depth_db: float = number(
        "Depth",
        unit="dB",
        default=10.0,
        low=1,
        high=40,
        usual=(6, 20),
        increment=1,
        help="Each breath goes down by so much, but not below the room.",
    )

    @property
    def measures_wanted(self) -> frozenset[str]:
        """Levels of voice and room."""
        return frozenset({"speech", "noise"})

    def facts(self, step_input: StepInput) -> Facts:
        """Levels of voice and room, beside what a person has settled."""
        floor = step_input.measures.noise_floor_dbfs if step_input.measures else None
        floor = _SOFTEST_ROOM_DBFS if floor is None else max(floor, _SOFTEST_ROOM_DBFS)
        return self.voice_facts(step_input) | {"noise_floor_dbfs": floor}

    def mender(self, info: SignalInfo, facts: Facts) -> BreathMender:
        """For one signal."""
        return BreathMender(self, info, facts)

    def _sentence(self) -> str:
        """In plain words."""
        return (
            f"Turns breaths between phrases down by {self.depth_db:g} dB, but not below the room."
        )


class BreathMender:
    """Finds breaths in the mean of all channels."""

    def __init__(self, step: Breath, info: SignalInfo, facts: Facts) -> None:
        self._rate, self._depth_db = info.sample_rate_hz, step.depth_db
        self._hop = hop_samples(info.sample_rate_hz)
        self._voice_dbfs, self._room_dbfs = facts["voice_level_dbfs"], facts["noise_floor_dbfs"]
        self._stricter_db = step.stricter_db

    def find(self, sound: Samples) -> Sequence[Event]:
        """Breaths, and how far each lies over the room."""
        mean = sound.mean(axis=0)
        levels = self._voice_dbfs, self._room_dbfs, self._stricter_db
        found = find_breaths(mean, self._rate, self._hop, *levels)
        return [Event(a, b, level_dbfs - self._room_dbfs) for a, b, level_dbfs in found]

    def added(self, start: int, stop: int) -> Event:
        """As it was marked, taken for as loud as breaths are."""
        return Event(start, stop, self._depth_db)

    def mend(self, sound: Samples, event: Event, at: int) -> None:
        """Turn it down."""
        less_db = max(0.0, min(self._depth_db, event.strength_db))
        span = sound[:, event.start : event.stop]
        fade = max(1, round(_FADE_S * self._rate))
        place = np.arange(span.shape[1]) + 0.5
        # Counted from the event's own ends, which may lie outside of this piece.
        ends = np.minimum(1.0, np.minimum(place, place[::-1]) / fade)
        edge = np.square(np.sin(0.5 * np.pi * ends))
        span *= 1.0 - edge * (1.0 - db_to_factor(-less_db))
