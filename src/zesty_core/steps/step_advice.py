"""Traits of steps, and findings that a step reports about itself.

Rules on the order of a chain, or on several steps, are in ``zesty_core/advice/chain.py``; they test
traits, never classes.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from zesty_core.measures.noise_floor_shift import NoiseFloorShift
from zesty_core.measures.report import Levels


class Trait(StrEnum):
    """Properties of a step that the rules on chains depend on."""

    #: Learns steady noise and takes it away.
    LEARNS_NOISE = "learns noise"
    #: Modulates the room noise with the words.
    MOVES_NOISE = "moves noise"
    #: Brings every recording to one level, so that thresholds in dBFS are comparable.
    CALIBRATES = "calibrates"
    #: Has a threshold, in dBFS or relative to the voice.
    HAS_THRESHOLD = "has a threshold"
    #: Attenuates below its threshold instead of above it.
    SHUTS_GAPS = "shuts gaps"
    #: Reduces gain with rising input level.
    COMPRESSES = "compresses"
    #: Can raise peaks over an earlier ceiling.
    RAISES_PEAKS = "raises peaks"
    #: Limits peaks to a ceiling.
    HOLDS_CEILING = "holds a ceiling"


@dataclass(frozen=True)
class ToneChange:
    """A deliberate change of tone: ``is_local`` for one that acts around its frequency alone."""

    freq_hz: float
    gain_db: float
    is_local: bool


@dataclass(frozen=True)
class StepContext:
    """A step's results in its chain; the report is empty where it has not run."""

    report: Mapping[str, Any]
    #: Levels of the recording before the chain.
    recorded: Levels
    #: Where the recording's room is louder than elsewhere.
    noise_floor_shift: NoiseFloorShift | None = None


@dataclass(frozen=True)
class Remark:
    """A finding of a step about itself; ``params`` are settings that would fix it."""

    code: str
    text: str
    act_text: str = ""
    params: Mapping[str, Any] = field(default_factory=dict)
    at_s: tuple[float, ...] = ()
