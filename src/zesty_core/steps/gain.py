"""Plain gain."""

from __future__ import annotations

from dataclasses import dataclass

from zesty_core.foundation.settings import number
from zesty_core.foundation.signal import SignalInfo
from zesty_core.foundation.units import db_to_factor
from zesty_core.steps.base import Facts, GainProcessor, Guide, Step


@dataclass(frozen=True, kw_only=True)
class Gain(Step):
    """Turns the whole recording up or down."""

    type = "gain"
    label = "Gain"
    summary = "turns everything up or down"
    guide = Guide(
        "Turns everything up or down.",
        ("Trim between steps that were set by ear.",),
        "Thresholds after it see another level.",
    )
    work_ns = 1.0

    gain_db: float = number(
        "Gain",
        unit="dB",
        default=0.0,
        low=-60,
        high=60,
        usual=(-6, 6),
        help="Added to every sample alike.",
    )

    @property
    def is_neutral(self) -> bool:
        """0 dB changes nothing."""
        return self.gain_db == 0.0

    def start(self, info: SignalInfo, facts: Facts) -> GainProcessor:
        """New running state."""
        factors = [db_to_factor(self.gain_db)] * info.channels
        return GainProcessor(factors, [0.0] * info.channels, {"gain_db": self.gain_db})

    def plain_gain_db(self, facts: Facts) -> float | None:
        """The gain itself."""
        return self.gain_db

    @classmethod
    def warm_up_cases(cls) -> tuple[Gain, ...]:
        """One that changes something."""
        return (cls(gain_db=-1.0),)

    def _sentence(self) -> str:
        """In plain words."""
        if self.is_neutral:
            return "Leaves the level alone."
        verb = "up" if self.gain_db > 0 else "down"
        return f"Turns everything {verb} by {abs(self.gain_db):g} dB."
