"""Click: clicks, crackle and lip smacks are cut out, and the gap filled from both sides."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

from zesty_core.dsp.clicks import find_clicks
from zesty_core.dsp.fixed_hops import bin_samples
from zesty_core.dsp.prediction import filled, gap_model_order
from zesty_core.foundation.settings import number
from zesty_core.foundation.signal import SignalInfo
from zesty_core.steps.base import Facts, Guide
from zesty_core.steps.repair import Event, RepairStep, Samples, in_channel

_AROUND_S = 0.1


@dataclass(frozen=True, kw_only=True)
class Click(RepairStep):
    """Mends clicks and mouth noise."""

    type = "click"
    label = "Click"
    summary = "mends clicks, crackle and lip smacks"
    guide = Guide(
        "Finds clicks, crackle and smacks of the lips, cuts each out and fills the gap so that it "
        "continues both sides. Nothing else changes.",
        (
            "Before noise reduction, which smears clicks.",
            "Sureness 50 %; 30 % for a mouth that clicks in every word, 75 % where consonants suffer.",
        ),
        "A click that hides in a sharp consonant is left. Lower the sureness step by step and hear "
        "what is removed: the tick of a t or k must not be in it.",
    )
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "Mouth noise": {"sureness_percent": 35.0},
        "Only what is plain": {"sureness_percent": 80.0, "longest_ms": 6.0},
    }
    work_ns = 90.0
    #: Surroundings that decide, and that the gap is filled from.
    reach_hops = 20

    longest_ms: float = number(
        "Longest",
        unit="ms",
        default=20.0,
        low=0.5,
        high=20,
        usual=(5, 20),
        increment=0.5,
        help="Longer sounds are no clicks.",
    )

    def mender(self, info: SignalInfo, facts: Facts) -> ClickMender:
        """For one signal."""
        return ClickMender(self, info)

    def _sentence(self) -> str:
        """In plain words."""
        return (
            f"Cuts out clicks of up to {self.longest_ms:g} ms and fills the gaps from both sides."
        )


class ClickMender:
    """Finds clicks in each channel by itself."""

    def __init__(self, step: Click, info: SignalInfo) -> None:
        self._rate, self._stricter_db = info.sample_rate_hz, step.stricter_db
        self._longest = step.longest_ms * 1e-3 * info.sample_rate_hz + 2 * bin_samples(self._rate)
        self._order = gap_model_order(info.sample_rate_hz)

    def find(self, sound: Samples) -> Sequence[Event]:
        """Clicks of all channels."""
        found: list[Event] = []
        for channel, row in enumerate(sound):
            clicks = find_clicks(row, self._rate, self._stricter_db)
            short = [c for c in clicks if c.stop - c.start <= self._longest]
            found += in_channel([Event(c.start, c.stop, c.over_db) for c in short], channel)
        return sorted(found, key=lambda event: event.start)

    def added(self, start: int, stop: int) -> Event:
        """Up to the longest that is filled."""
        return Event(start, min(stop, start + round(0.02 * self._rate)), 0.0)

    def mend(self, sound: Samples, event: Event, at: int) -> None:
        """Fill the gap."""
        around = round(_AROUND_S * self._rate)
        first = max(0, event.start - around)
        channels = range(len(sound)) if event.channel is None else (event.channel,)
        for channel in channels:
            row = sound[channel, first : event.stop + around]
            start, stop = event.start - first, event.stop - first
            if start <= self._order or len(row) - stop <= self._order:
                continue
            seed = at + event.start
            row[start:stop] = filled(row, start, stop, self._order, abs(seed))
