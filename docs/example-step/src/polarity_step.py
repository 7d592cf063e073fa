"""Turns the waveform over, wholly or on one side.

Output is ``-x``. Two microphones on one source cancel each other where one of them is wired the other
way round; turning one side over mends that.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from zesty_core.foundation.processor import Processor
from zesty_core.foundation.settings import choice
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.steps.base import Facts, Guide, Step

SIDES = ("both", "left", "right")


@dataclass(frozen=True, kw_only=True)
class Polarity(Step):
    """A sign for each channel."""

    type = "polarity"
    label = "Polarity"
    summary = "turns the waveform over"
    guide = Guide(
        "Mends two microphones that cancel each other when they are heard together.",
        ("Turn over the side that sounds thin when both are folded to mono.",),
        "It changes nothing that is heard of one microphone by itself.",
    )

    sides: str = choice(
        "Sides", choices=SIDES, default="both", help="Which channels are turned over."
    )

    def start(self, info: SignalInfo, facts: Facts) -> Processor:
        """New running state."""
        turned = {"both": (0, 1), "left": (0,), "right": (1,)}[self.sides]
        signs = [-1.0 if channel in turned else 1.0 for channel in range(info.channels)]
        return _Signs(np.array(signs, np.float32)[:, None])

    def _sentence(self) -> str:
        """In plain words."""
        what = "the waveform" if self.sides == "both" else f"the {self.sides} side"
        return f"Turns {what} over."


class _Signs:
    def __init__(self, signs: Block) -> None:
        self._signs = signs

    def push(self, block: Block) -> Block:
        """Turn a block over."""
        return block * self._signs

    def finish(self) -> Block:
        """Nothing is held back."""
        return np.zeros((len(self._signs), 0), np.float32)

    def report(self) -> dict[str, Any]:
        """Nothing to report."""
        return {}
