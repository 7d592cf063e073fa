"""What steps say of their own work: findings that only the step itself can judge.

Rules that concern the order of a chain, or several steps at once, lie in ``zesty_core/advice/chain.py``
and ask for traits, never for classes.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from zesty_core.measures.louder_room import LouderRoom
from zesty_core.measures.report import Levels


class Trait(StrEnum):
    """What a step is like, as far as advice about a chain depends on it."""

    #: Learns steady noise and takes it away.
    LEARNS_NOISE = "learns noise"
    #: Turns the room up and down with the words.
    MOVES_NOISE = "moves noise"
    #: Brings every recording to one level, so that absolute thresholds mean the same.
    CALIBRATES = "calibrates"
    #: Has a threshold that can count from full scale or follow the voice.
    HAS_THRESHOLD = "has a threshold"
    #: Shuts what lies under its threshold, instead of turning down what lies over it.
    SHUTS_GAPS = "shuts gaps"
    #: Works harder the louder its input is.
    COMPRESSES = "compresses"
    #: Can raise peaks over a ceiling that was held before it.
    RAISES_PEAKS = "raises peaks"
    #: Lets nothing pass its ceiling.
    HOLDS_CEILING = "holds a ceiling"


@dataclass(frozen=True)
class ToneMove:
    """A deliberate change of tone: ``is_local`` for one that acts around its frequency alone."""

    freq_hz: float
    gain_db: float
    is_local: bool


@dataclass(frozen=True)
class StepAtWork:
    """What is known of a step in its chain; the report is empty where it has not run."""

    report: Mapping[str, Any]
    #: Levels of the recording before the chain.
    recorded: Levels
    #: Where the recording's room is louder than elsewhere.
    louder_room: LouderRoom | None = None


@dataclass(frozen=True)
class Remark:
    """A finding of a step about itself; ``params`` are settings that would mend it."""

    code: str
    text: str
    act_text: str = ""
    params: Mapping[str, Any] = field(default_factory=dict)
    at_s: tuple[float, ...] = ()
