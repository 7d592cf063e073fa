"""Plosive: thumps of breath and knocks go down to what the voice has there, and nothing else does."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

from zesty_core.dsp.plosives import LowSound
from zesty_core.foundation.signal import SignalInfo
from zesty_core.steps.base import Facts, Guide, StepInput
from zesty_core.steps.repair import Event, RepairStep, Samples, in_channel


@dataclass(frozen=True, kw_only=True)
class Plosive(RepairStep):
    """Mends thumps of breath."""

    type = "plosive"
    label = "Plosive"
    summary = "turns thumps of breath down"
    guide = Guide(
        "Finds the thumps that a p or b blows into the microphone, and knocks on its stand, and turns "
        "each down below 170 Hz to what the voice has there. A high-pass would thin the whole file.",
        ("Before noise reduction, gate and compressor.", "Sureness 50 %."),
        "Voices that have been cut below 80 Hz already have nothing left to find. Turn away from the "
        "microphone by a hand's width next time.",
    )
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "Soft thumps too": {"sureness_percent": 25.0}
    }
    work_ns = 25.0
    #: What is usual is learned from around a thump.
    reach_hops = 72

    @property
    def measures_wanted(self) -> frozenset[str]:
        """The voice level."""
        return frozenset({"speech", "noise"})

    def facts(self, step_input: StepInput) -> Facts:
        """The voice level, beside what a person has settled."""
        return self.voice_facts(step_input)

    def mender(self, info: SignalInfo, facts: Facts) -> PlosiveMender:
        """For one signal."""
        return PlosiveMender(info, facts["voice_level_dbfs"], self.stricter_db)

    def _sentence(self) -> str:
        """In plain words."""
        return "Turns thumps of breath and knocks down to what the voice has below 170 Hz."


class PlosiveMender:
    """Finds thumps in each channel by itself."""

    def __init__(self, info: SignalInfo, voice_level_dbfs: float, stricter_db: float) -> None:
        self._rate = info.sample_rate_hz
        self._voice_level_dbfs, self._stricter_db = voice_level_dbfs, stricter_db

    def find(self, sound: Samples) -> Sequence[Event]:
        """Thumps of all channels."""
        found: list[Event] = []
        for channel, row in enumerate(sound):
            bursts = LowSound(row, self._rate).bursts(self._voice_level_dbfs, self._stricter_db)
            found += in_channel([Event(*burst) for burst in bursts], channel)
        return sorted(found, key=lambda event: event.start)

    def added(self, start: int, stop: int) -> Event:
        """As it was marked."""
        return Event(start, stop, 0.0)

    def mend(self, sound: Samples, event: Event, at: int) -> None:
        """Take what is too much."""
        channels = range(len(sound)) if event.channel is None else (event.channel,)
        for channel in channels:
            excess = LowSound(sound[channel], self._rate).excess(event.start, event.stop)
            sound[channel, event.start : event.stop] -= excess
