"""Leveller: every phrase comes closer to the level of all, by a gain that changes in the pauses."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from zesty_core.foundation.settings import choice, number
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.foundation.speakers import Speakers
from zesty_core.foundation.units import power_to_db
from zesty_core.measures.speakers import (
    SpeakerPhrase,
    assigned,
    find_speakers,
    speaker_phrases,
)
from zesty_core.measures.speech_events import LEAST_PHRASE_S
from zesty_core.steps.base import Facts, GainProcessor, Guide, Step, StepInput
from zesty_core.steps.step_advice import Trait

#: Around a phrase its gain already stands, for soft beginnings and ends, and then glides to none.
_AROUND_S, _GLIDE_S = 0.1, 0.15
#: From one gain to the next, where somebody interrupts.
_LEAST_GLIDE_S = 0.08
_FEWEST_PHRASES = 2
_AS_ONE = "as_one"
_COUNTS = {"two": 2, "three": 3, "four": 4}
_TOO_FEW = "left as it is: fewer than two phrases were found"


@dataclass(frozen=True, kw_only=True)
class Leveller(Step):
    """Rides the voice from phrase to phrase."""

    type = "leveller"
    label = "Leveller"
    summary = "evens phrases and speakers"
    guide = Guide(
        "Brings soft and loud phrases, or two speakers, to one level without the sound of a "
        "compressor. Each phrase has one gain, which changes in the pauses; these stay as they are. "
        "Who speaks when is found from the voices, and can be corrected under the recording.",
        (
            "85 % with a range of 12 dB, before a gentle compressor or instead of one.",
            "Two speakers far apart: Speakers at two, 70 % and 18 dB.",
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
        "Two speakers": {"evening_percent": 70.0, "range_db": 18.0, "speakers": "two"},
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

    speakers: str = choice(
        "Speakers",
        default=_AS_ONE,
        choices=(_AS_ONE, "find", *_COUNTS),
        words={_AS_ONE: "all as one", "find": "find out"},
        help="Brings each speaker to one level before phrases are evened: found by side, spectrum, "
        "pitch and level, or as corrected by hand.",
    )

    @property
    def is_neutral(self) -> bool:
        """Nothing is evened, or by nothing."""
        evens = self.evening_percent > 0.0 or self.speakers != _AS_ONE
        return not evens or self.range_db == 0.0

    @property
    def measures_wanted(self) -> frozenset[str]:
        """The phrases and their levels, and what tells voices apart."""
        alone = frozenset({"speech", "noise", "speech_events"})
        return alone if self.speakers == _AS_ONE else alone | {"speakers"}

    def facts(self, step_input: StepInput) -> Facts:
        """Start, end, level and gain of each phrase; by whom each is, where that matters."""
        speakers, phrases = self._spoken(step_input)
        if len(phrases) < _FEWEST_PHRASES:
            return {"phrases": [], "note": _TOO_FEW}
        gains_db = self._gains_db(phrases)
        rows = [
            [p.start_s, p.end_s, p.level_dbfs, gain_db]
            for p, gain_db in zip(phrases, gains_db, strict=True)
        ]
        if speakers is None:
            return {"phrases": rows}
        spoken_by = [phrase.speaker for phrase in phrases]
        return {"phrases": rows, "speakers": speakers.as_json(), "spoken_by": spoken_by}

    def _spoken(self, step_input: StepInput) -> tuple[Speakers | None, Sequence[SpeakerPhrase]]:
        """Who speaks when, and the phrases; all are of one where that is not asked for."""
        measures = step_input.measures
        frames = measures.speaker_frames if measures else None
        if self.speakers != _AS_ONE and frames is not None:
            speakers = step_input.speakers or find_speakers(frames, _COUNTS.get(self.speakers))
            return speakers, speaker_phrases(frames, speakers)
        events = measures.speech_events if measures else None
        plain = events.phrases if events else ()
        given = step_input.speakers if self.speakers != _AS_ONE else None
        return given, assigned(plain, given)

    def _gains_db(self, phrases: Sequence[SpeakerPhrase]) -> list[float]:
        """Each speaker to the level of all, then each phrase closer to that of its speaker."""
        # From their own mean, so that a gain before the step changes nothing.
        all_db = _mean_level_db((p.start_s, p.end_s, p.level_dbfs) for p in phrases)
        own_db = {
            speaker: _mean_level_db(
                (p.start_s, p.end_s, p.level_dbfs) for p in phrases if p.speaker == speaker
            )
            for speaker in {phrase.speaker for phrase in phrases}
        }
        gains_db = []
        for phrase in phrases:
            # A single word tells too little to be evened by itself.
            evened = phrase.end_s - phrase.start_s >= LEAST_PHRASE_S
            distance_db = own_db[phrase.speaker] - phrase.level_dbfs if evened else 0.0
            gain_db = all_db - own_db[phrase.speaker] + self.evening_percent / 100.0 * distance_db
            gains_db.append(round(float(np.clip(gain_db, -self.range_db, self.range_db)), 2))
        return gains_db

    def facts_from(self, facts: Facts, first_sample: int | None) -> Facts:
        """Phrases counted from the passage's first sample; a room tone by itself has none."""
        if first_sample is None:
            return {"phrases": []}
        return facts | {"first_sample": first_sample}

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
        return LevellerProcessor(info, facts)

    def _sentence(self) -> str:
        """In plain words."""
        if self.is_neutral:
            return "Leaves the phrases as they are."
        first = "" if self.speakers == _AS_ONE else "Brings speakers to one level. "
        return first + (
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
    """Time in seconds and gain in dB of every corner of the ride, in order; no two at one time."""
    for at, (start_s, end_s, _, gain_db) in enumerate(phrases):
        gap_s = start_s - phrases[at - 1][1] if at else np.inf
        near = gap_s < 2 * (_AROUND_S + _GLIDE_S)
        # In a short gap the ride goes straight from one gain to the next.
        around_s = _around_s(gap_s)
        if not near:
            yield start_s - around_s - _GLIDE_S, 0.0
        yield start_s - around_s, gain_db
        gap_s = phrases[at + 1][0] - end_s if at + 1 < len(phrases) else np.inf
        around_s = _around_s(gap_s)
        yield end_s + around_s, gain_db
        if gap_s >= 2 * (_AROUND_S + _GLIDE_S):
            yield end_s + around_s + _GLIDE_S, 0.0


def _around_s(gap_s: float) -> float:
    """How far a gain stands beyond its phrase; less than none where the next follows at once."""
    return min(_AROUND_S, (gap_s - _LEAST_GLIDE_S) / 2, max(0.0, gap_s / 4))


class LevellerProcessor:
    """Multiplies by the ride; its place in the recording is counted in samples."""

    def __init__(self, info: SignalInfo, facts: Facts) -> None:
        self._rate, self._channels = info.sample_rate_hz, info.channels
        self._facts, self._at = facts, int(facts.get("first_sample", 0))
        times, gains = zip(*_gain_points(facts["phrases"]), strict=True)
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
        """How many phrases, how far they were apart, how far they were moved, and by whom they are."""
        levels, gains = np.array([phrase[2:] for phrase in self._facts["phrases"]]).T
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
        } | _of_speakers(self._facts)


def _of_speakers(facts: Facts) -> dict[str, Any]:
    """Turns, and the level of each speaker before and after."""
    if "speakers" not in facts:
        return {}
    speakers, phrases = Speakers.from_json(facts["speakers"]), facts["phrases"]
    levels = []
    for place, name in enumerate(speakers.names):
        own = [p for p, by in zip(phrases, facts["spoken_by"], strict=True) if by == place]
        if own:
            before_dbfs = _mean_level_db((start, end, level) for start, end, level, _ in own)
            after_dbfs = _mean_level_db(
                (start, end, level + gain) for start, end, level, gain in own
            )
            levels.append(
                {
                    "name": name,
                    "speaks_s": round(sum(end - start for start, end, *_ in own), 1),
                    "before_dbfs": round(before_dbfs, 1),
                    "after_dbfs": round(after_dbfs, 1),
                }
            )
    return {"speaker_levels": levels, "speakers": speakers.as_json()}
