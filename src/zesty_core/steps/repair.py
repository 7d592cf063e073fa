"""What all repairs share: events that are found, mended one by one, and may be refused or added.

Sound is looked at in pieces of fixed length, each with its surroundings. What is found depends on
nothing else, so a passage is mended as the whole is. Outside of events nothing changes by a bit.
"""

from __future__ import annotations

import dataclasses
from abc import abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, ClassVar, Protocol

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.fixed_hops import LONGEST_HOP_S, hop_samples
from zesty_core.foundation.settings import number
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.steps.base import Facts, GainProcessor, Step, StepInput

Samples = NDArray[np.float64]

#: Length of a piece. All repairs share it: a passage begins on a multiple of each step's frames.
PIECE_HOPS = 96
#: The report names no more of them; all are counted.
MOST_EVENTS = 500
#: How much stricter or laxer finding becomes from one end of the setting to its middle.
_SURENESS_DB = 8.0


@dataclass(frozen=True)
class Event:
    """First sample, the one behind the last, how strong it is, and in which channel; None for all."""

    start: int
    stop: int
    strength_db: float
    channel: int | None = None


class Mender(Protocol):
    """Finds and mends one kind of event. Sound has the shape (channels, samples)."""

    def find(self, sound: Samples) -> Sequence[Event]:
        """Events in the sound, in order."""

    def added(self, start: int, stop: int) -> Event:
        """The event that a person has pointed at."""

    def mend(self, sound: Samples, event: Event, at: int) -> None:
        """Mend it in place; ``at`` is the place of the first sample in the whole."""


@dataclass(frozen=True, kw_only=True)
class RepairStep(Step):
    """A step that finds events and mends them."""

    sureness_percent: float = number(
        "Sureness",
        unit="%",
        default=50.0,
        low=0,
        high=100,
        usual=(30, 80),
        increment=5,
        help="How sure it must be of an event to mend it: more leaves more alone.",
    )

    @property
    def stricter_db(self) -> float:
        """By how much an event must stand out further than usual."""
        return (self.sureness_percent - 50.0) / 50.0 * _SURENESS_DB

    @abstractmethod
    def mender(self, info: SignalInfo, facts: Facts) -> Mender:
        """What finds and mends the events of one signal."""

    #: How far around a piece is looked, in hops.
    reach_hops: ClassVar[int]

    @property
    def state_decay_s(self) -> float:
        """Surroundings before a piece."""
        return (self.reach_hops + PIECE_HOPS) * LONGEST_HOP_S

    @property
    def look_ahead_s(self) -> float:
        """Surroundings behind a piece."""
        return self.state_decay_s

    def frame_samples(self, info: SignalInfo) -> int:
        """Pieces."""
        return PIECE_HOPS * hop_samples(info.sample_rate_hz)

    def facts(self, step_input: StepInput) -> Facts:
        """Where a person has refused or added events, in samples."""
        repairs = step_input.repairs
        spans = repairs.of(self.type, step_input.info.sample_rate_hz) if repairs else {}
        return {name: found for name, found in spans.items() if found}

    def voice_facts(self, step_input: StepInput) -> Facts:
        """The same with the voice level; a note alone where nobody speaks."""
        measures = step_input.measures
        if measures is None or measures.voice_level_dbfs is None:
            return {"note": "left as it is: nobody speaks"}
        return RepairStep.facts(self, step_input) | {"voice_level_dbfs": measures.voice_level_dbfs}

    def facts_from(self, facts: Facts, first_sample: int | None) -> Facts:
        """Spans counted from the passage's first sample; none for a room tone by itself."""
        first = first_sample or 0
        keys = ("refused", "added")
        spans = {k: [[a - first, b - first] for a, b in facts[k]] for k in keys if k in facts}
        return facts | (spans if first_sample is not None else {k: [] for k in spans})

    def start(self, info: SignalInfo, facts: Facts) -> RepairProcessor | GainProcessor:
        """New running state."""
        if "note" in facts:
            return GainProcessor.idle(info, facts["note"])
        hop = hop_samples(info.sample_rate_hz)
        sizes = PIECE_HOPS * hop, self.reach_hops * hop
        return RepairProcessor(self.mender(info, facts), info, facts, *sizes)


class RepairProcessor:
    """Goes through a signal piece by piece."""

    def __init__(
        self, mender: Mender, info: SignalInfo, facts: Facts, piece: int, reach: int
    ) -> None:
        self._piece, self._reach = piece, reach
        self._mender, self._rate = mender, info.sample_rate_hz
        self._refused = [tuple(span) for span in facts.get("refused", ())]
        self._added = [tuple(span) for span in facts.get("added", ())]
        # Pieces reach back before the first sample.
        self._held: Block = np.zeros((info.channels, reach), np.float32)
        #: Place in the signal of the next piece.
        self._at, self._length = 0, 0
        self._count, self._refusals = 0, 0
        self._events: list[list[float]] = []
        self._strengths: list[float] = []

    def push(self, block: Block) -> Block:
        """What no later sample changes."""
        self._held = np.concatenate([self._held, block], axis=1)
        self._length += block.shape[1]
        return self._give()

    def finish(self) -> Block:
        """The rest."""
        left = self._length - self._at
        silence = np.zeros((len(self._held), self._piece + self._reach), np.float32)
        self._held = np.concatenate([self._held, silence], axis=1)
        return self._give()[:, :left]

    def _give(self) -> Block:
        piece, reach = self._piece, self._reach
        made = []
        while self._held.shape[1] >= piece + 2 * reach:
            made.append(self._mended(self._held[:, : piece + 2 * reach]))
            self._held = self._held[:, piece:]
            self._at += piece
        return np.concatenate(made, axis=1) if made else self._held[:, :0]

    def _mended(self, window: Block) -> Block:
        piece, reach, first = self._piece, self._reach, self._at - self._reach
        inside = window[:, reach : reach + piece]
        if not window.any():
            return inside
        sound = window.astype(np.float64)
        events = [
            e for e in self._wanted(sound, first) if e.stop > reach and e.start < reach + piece
        ]
        if not events:
            return inside
        for event in events:
            self._mender.mend(sound, event, first)
            if event.start >= reach:
                self._keep(event, first)
        touched = np.zeros(window.shape, bool)
        for event in events:
            rows = slice(None) if event.channel is None else event.channel
            touched[rows, event.start : event.stop] = True
        return np.where(touched, sound, window)[:, reach : reach + piece].astype(np.float32)

    def _wanted(self, sound: Samples, first: int) -> list[Event]:
        """Events that were found and not refused, and those that a person has pointed at."""
        events = []
        for event in self._mender.find(sound):
            middle = first + (event.start + event.stop) // 2
            if any(a <= middle < b for a, b in self._refused):
                self._refusals += self._reach <= event.start < self._reach + self._piece
            else:
                events.append(event)
        last = first + sound.shape[1]
        for a, b in self._added:
            start, stop = max(a, first), min(b, last)
            there = any(e.start < b - first and e.stop > a - first for e in events)
            if start < stop and not there:
                events.append(self._mender.added(start - first, stop - first))
        return events

    def _keep(self, event: Event, first: int) -> None:
        self._count += 1
        self._strengths.append(event.strength_db)
        if len(self._events) < MOST_EVENTS:
            start, stop = (first + n for n in (event.start, event.stop))
            row = [start / self._rate, stop / self._rate, event.strength_db]
            self._events.append([round(row[0], 4), round(row[1], 4), round(row[2], 1)])

    def report(self) -> dict[str, Any]:
        """How many events, and when each begins, ends, and how strong it was."""
        strengths = self._strengths
        return {
            "mended": self._count,
            "refused": self._refusals,
            "strength_db": round(float(np.median(strengths)), 1) if strengths else None,
            "events": self._events,
        }


def in_channel(events: Sequence[Event], channel: int) -> list[Event]:
    """The same, in one channel."""
    return [dataclasses.replace(event, channel=channel) for event in events]
