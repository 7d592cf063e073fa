"""Leveller: every phrase comes closer to the level of all, by a gain that changes in the pauses."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from zesty_core.foundation.settings import number
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.foundation.units import power_to_db
from zesty_core.steps.base import Facts, GainProcessor, Guide, Step, StepInput
from zesty_core.steps.step_advice import Trait

#: Around a phrase its gain already stands, for soft beginnings and ends, and then glides to none.
_AROUND_S, _GLIDE_S = 0.1, 0.15
_FEWEST_PHRASES = 2
_TOO_FEW = "left as it is: fewer than two phrases were found"


@dataclass(frozen=True, kw_only=True)
class Leveller(Step):
    """Rides the voice from phrase to phrase."""

    type = "leveller"
    label = "Leveller"
    summary = "evens phrases and speakers"
    guide = Guide(
        "Brings soft and loud phrases, or two speakers, to one level without the sound of a "
        "compressor. Each phrase has one gain, which changes in the pauses; these stay as they are.",
        (
            "85 % with a range of 12 dB, before a gentle compressor or instead of one.",
            "Two speakers far apart: 100 % and 18 dB.",
            "A reading whose loud and soft lines are meant: 50 %.",
        ),
        "It moves phrases, not words: what rises and falls within one breath is work for a compressor. "
        "A phrase more than 18 dB under the voice level counts as a pause. Noise under a lifted phrase "
        "comes up with it: reduce noise first.",
    )
    traits = frozenset({Trait.MOVES_NOISE, Trait.RAISES_PEAKS})
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "Reading": {"evening_percent": 70.0, "range_db": 9.0},
        "Uneven take": {},
        "Two speakers": {"evening_percent": 100.0, "range_db": 18.0},
    }  # fmt: skip
    work_ns = 4.0

    evening_percent: float = number(
        "Evening",
        unit="%",
        default=85.0,
        low=0,
        high=100,
        usual=(50, 100),
        increment=5,
        help="How much of a phrase's distance from the level of all is taken away.",
    )
    range_db: float = number(
        "Range",
        unit="dB",
        default=12.0,
        low=0,
        high=24,
        usual=(6, 18),
        increment=0.5,
        help="No phrase is turned up or down by more.",
    )

    @property
    def is_neutral(self) -> bool:
        """Nothing is evened, or by nothing."""
        return self.evening_percent == 0.0 or self.range_db == 0.0

    @property
    def measures_wanted(self) -> frozenset[str]:
        """The phrases and their levels."""
        return frozenset({"speech", "noise", "speech_events"})

    def facts(self, step_input: StepInput) -> Facts:
        """Start, end, level and gain of each phrase."""
        events = step_input.measures.speech_events if step_input.measures else None
        phrases = events.phrases if events else ()
        if len(phrases) < _FEWEST_PHRASES:
            return {"phrases": [], "note": _TOO_FEW}
        # From their own mean, so that a gain before the step changes nothing.
        middle_db = _mean_level_db((p.start_s, p.end_s, p.level_dbfs) for p in phrases)
        return {
            "phrases": [
                [
                    p.start_s,
                    p.end_s,
                    p.level_dbfs,
                    round(self._gain_db(middle_db - p.level_dbfs), 2),
                ]
                for p in phrases
            ]
        }

    def _gain_db(self, distance_db: float) -> float:
        return float(
            np.clip(self.evening_percent / 100.0 * distance_db, -self.range_db, self.range_db)
        )

    def facts_from(self, facts: Facts, first_sample: int | None) -> Facts:
        """Phrases counted from the passage's first sample; a room tone by itself has none."""
        placed: Facts = {"phrases": []} if first_sample is None else {"first_sample": first_sample}
        return facts | placed

    def whole_moved_db(self, facts: Facts) -> tuple[float, float]:
        """All phrases together, and the loudest of them, after the ride against before."""
        phrases = facts["phrases"]
        if not phrases:
            return 0.0, 0.0
        loudest_db = max(level for *_, level, _ in phrases)
        loudest_after_db = max(level + gain for *_, level, gain in phrases)
        level_db = _mean_level_db((start, end, level) for start, end, level, _ in phrases)
        after_db = _mean_level_db((start, end, level + gain) for start, end, level, gain in phrases)
        return after_db - level_db, loudest_after_db - loudest_db

    def start(self, info: SignalInfo, facts: Facts) -> LevellerProcessor | GainProcessor:
        """New running state."""
        if not facts["phrases"]:
            return GainProcessor([1.0] * info.channels, [0.0] * info.channels, _note(facts))
        return LevellerProcessor(info, facts["phrases"], facts.get("first_sample", 0))

    def _sentence(self) -> str:
        """In plain words."""
        if self.is_neutral:
            return "Leaves the phrases as they are."
        return (
            f"Takes {self.evening_percent:g} % of the differences between phrases away, by at most "
            f"{self.range_db:g} dB, and leaves pauses alone."
        )


def _note(facts: Facts) -> dict[str, Any]:
    return {"note": facts["note"]} if "note" in facts else {}


def _mean_level_db(phrases: Iterable[tuple[float, float, float]]) -> float:
    """Level of all phrases together, by their lengths; each is its start, end and level."""
    starts_s, ends_s, levels_db = np.array(list(phrases)).T
    powers = 10.0 ** (levels_db / 10.0)
    return power_to_db(float(np.average(powers, weights=ends_s - starts_s)))


def _gain_points(phrases: list[list[float]]) -> Iterator[tuple[float, float]]:
    """Time in seconds and gain in dB of every corner of the ride, in order."""
    for at, (start_s, end_s, _, gain_db) in enumerate(phrases):
        gap_s = start_s - phrases[at - 1][1] if at else np.inf
        near = gap_s < 2 * (_AROUND_S + _GLIDE_S)
        # In a short gap the ride goes straight from one gain to the next.
        around_s = min(_AROUND_S, gap_s / 4)
        if not near:
            yield start_s - around_s - _GLIDE_S, 0.0
        yield start_s - around_s, gain_db
        gap_s = phrases[at + 1][0] - end_s if at + 1 < len(phrases) else np.inf
        around_s = min(_AROUND_S, gap_s / 4)
        yield end_s + around_s, gain_db
        if gap_s >= 2 * (_AROUND_S + _GLIDE_S):
            yield end_s + around_s + _GLIDE_S, 0.0


class LevellerProcessor:
    """Multiplies by the ride; its place in the recording is counted in samples."""

    def __init__(self, info: SignalInfo, phrases: list[list[float]], first_sample: int) -> None:
        self._rate, self._channels = info.sample_rate_hz, info.channels
        self._phrases, self._at = phrases, first_sample
        times, gains = zip(*_gain_points(phrases), strict=True)
        self._times_s: NDArray[np.float64] = np.array(times)
        self._gains_db: NDArray[np.float64] = np.array(gains)

    def push(self, block: Block) -> Block:
        """With its gain."""
        now_s = np.arange(self._at, self._at + block.shape[1]) / self._rate
        self._at += block.shape[1]
        gain_db = np.interp(now_s, self._times_s, self._gains_db)
        return np.asarray(block * (10.0 ** (gain_db / 20.0)).astype(np.float32))

    def finish(self) -> Block:
        """Nothing is held back."""
        return np.zeros((self._channels, 0), np.float32)

    def report(self) -> dict[str, Any]:
        """How many phrases, how far they were apart, and how far they were moved."""
        levels, gains = np.array([phrase[2:] for phrase in self._phrases]).T
        spread, left = (
            float(np.subtract(*np.percentile(values, (90, 10))))
            for values in (levels, levels + gains)
        )
        return {
            "phrases": len(levels),
            "spread_before_db": round(spread, 1),
            "spread_after_db": round(left, 1),
            "max_lift_db": round(max(0.0, float(gains.max())), 1),
            "max_reduction_db": round(max(0.0, -float(gains.min())), 1),
        }
