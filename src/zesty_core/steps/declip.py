"""Declip: crests that were cut off are rebuilt from what is left around them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.declipping import FRAME_SAMPLES, rebuilt
from zesty_core.dsp.runs import runs
from zesty_core.dsp.spectral import hann
from zesty_core.foundation.settings import number
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.foundation.units import db_to_factor, factor_to_db
from zesty_core.steps.base import Facts, GainProcessor, Guide, Step, StepInput
from zesty_core.steps.step_advice import Trait

_HOP = FRAME_SAMPLES // 4
#: Samples so near to the top lie on it, where at least two do in a row.
_ON_TOP = 1.0 - 2e-4
_MOST_TIMES = 200
#: At its very edge a frame says nothing.
_LEAST_WEIGHT = 1e-6


@dataclass(frozen=True, kw_only=True)
class Declip(Step):
    """Rebuilds what was cut off at full scale."""

    type = "declip"
    label = "Declip"
    summary = "rebuilds crests that were cut off"
    guide = Guide(
        "Rebuilds the crests that a recording level set too high has cut off. All other samples stay "
        "as they are, but for the room that is made for the crests.",
        ("First in the chain, before anything changes the level where crests were cut.",),
        "It finds crests that lie flat on the recording's own top; where an encoder, a filter or "
        "another rate has bent them since, it does nothing. Recordings driven 3 to 10 dB too far come "
        "back well; beyond that record again.",
    )
    traits = frozenset({Trait.RAISES_PEAKS})
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {"Level as it is": {"room_db": 0.0}}
    work_ns = 200.0

    room_db: float = number(
        "Room",
        unit="dB",
        default=6.0,
        low=0,
        high=20,
        usual=(4, 10),
        increment=1,
        help="A clipped recording is lowered by so much, so that the rebuilt crests find room.",
    )

    @property
    def state_decay_s(self) -> float:
        """Frames overlap."""
        return 0.3

    @property
    def look_ahead_s(self) -> float:
        """A frame."""
        return 0.3

    def frame_samples(self, info: SignalInfo) -> int:
        """Frames begin on hops."""
        return _HOP

    @property
    def measures_wanted(self) -> frozenset[str]:
        """The top, and whether anything lies flat on it."""
        return frozenset({"peak", "clipping"})

    @property
    def facts_params(self) -> dict[str, Any]:
        """The facts are of the recording alone."""
        return {}

    def facts(self, step_input: StepInput) -> Facts:
        """Bottom and top of each channel."""
        measures = step_input.measures
        if measures is None or not measures.clipped_runs:
            return {"note": "left as it is: no crest lies flat"}
        return {"extremes": [list(pair) for pair in measures.sample_extremes]}

    def start(self, info: SignalInfo, facts: Facts) -> DeclipProcessor | GainProcessor:
        """New running state."""
        if "note" in facts:
            return GainProcessor.idle(info, facts["note"])
        return DeclipProcessor(self, info, facts["extremes"])

    def _sentence(self) -> str:
        """In plain words."""
        room = f" and lowers the recording by {self.room_db:g} dB for them" if self.room_db else ""
        return f"Rebuilds crests that were cut off{room}."


class DeclipProcessor:
    """Looks at overlapping frames; those without a flat crest pass."""

    def __init__(self, step: Declip, info: SignalInfo, extremes: list[list[float]]) -> None:
        channels = info.channels
        self._rate = info.sample_rate_hz
        self._factor = np.float32(db_to_factor(-step.room_db))
        self._extremes = extremes
        self._window = hann(FRAME_SAMPLES).astype(np.float64)
        lead = FRAME_SAMPLES - _HOP
        # Frames reach back before the first sample.
        self._open: Block = np.zeros((channels, lead), np.float32)
        self._sums = np.zeros((2, channels, lead))
        self._ahead, self._done = lead, 0
        self._crests = 0
        self._at_s: list[float] = []
        self._highest = max(max(abs(low), abs(high)) for low, high in extremes)
        self._top = self._highest

    def push(self, block: Block) -> Block:
        """What no later frame reaches."""
        self._add(block)
        frames = max(0, (self._open.shape[1] - FRAME_SAMPLES) // _HOP + 1)
        for frame in range(frames):
            self._repair(frame * _HOP)
        return self._give(frames * _HOP)

    def finish(self) -> Block:
        """The rest."""
        left = self._open.shape[1]
        self._add(np.zeros((len(self._open), FRAME_SAMPLES), np.float32))
        for start in range(0, left, _HOP):
            self._repair(start)
        return self._give(left)

    def _add(self, block: Block) -> None:
        self._open = np.concatenate([self._open, block], axis=1)
        self._sums = np.concatenate([self._sums, np.zeros((2, *block.shape))], axis=2)

    def _repair(self, start: int) -> None:
        span = slice(start, start + FRAME_SAMPLES)
        for channel, (low_end, high_end) in enumerate(self._extremes):
            frame = self._open[channel, span].astype(np.float64)
            if len(frame) < FRAME_SAMPLES:
                continue
            high, low = _flat(frame >= _ON_TOP * high_end), _flat(frame <= _ON_TOP * low_end)
            if not (high.any() or low.any()):
                continue
            cut = low | high
            sound = rebuilt(frame, self._window, low, high)
            self._sums[0, channel, span] += np.where(cut, sound, 0.0)
            self._sums[1, channel, span] += np.where(cut, self._window, 0.0)
            self._count(start, cut)

    def _count(self, start: int, cut: NDArray[np.bool_]) -> None:
        """Crests that begin in the part of a frame that only it begins with."""
        first = FRAME_SAMPLES - _HOP
        for begin, _ in runs(cut[first - 1 :]).tolist():
            if begin:
                self._crests += 1
                at = self._done + start + first - 1 + begin - (FRAME_SAMPLES - _HOP)
                if len(self._at_s) < _MOST_TIMES:
                    self._at_s.append(round(at / self._rate, 3))

    def _give(self, samples: int) -> Block:
        ready, self._open = self._open[:, :samples], self._open[:, samples:].copy()
        (sums, weights), self._sums = self._sums[:, :, :samples], self._sums[:, :, samples:].copy()
        whole = (sums / np.maximum(weights, _LEAST_WEIGHT)).astype(np.float32)
        out = np.where(weights > _LEAST_WEIGHT, whole, ready)
        gone = min(self._ahead, samples)
        self._ahead -= gone
        self._done += samples
        out = out[:, gone:]
        if out.size:
            self._top = max(self._top, float(np.abs(out).max()))
        return out if self._factor == 1.0 else out * self._factor

    def report(self) -> dict[str, Any]:
        """How many crests, where, and how far the highest came back."""
        return {
            "crests": self._crests,
            "rebuilt_db": round(factor_to_db(self._top / self._highest), 2),
            "at_s": self._at_s,
        }


def _flat(on_top: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Those with a neighbour on the top as well."""
    beside = np.zeros_like(on_top)
    beside[1:] |= on_top[:-1]
    beside[:-1] |= on_top[1:]
    return on_top & beside
