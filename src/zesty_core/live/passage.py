"""A passage of a recording through a chain, as the whole recording's run would make it.

Every step gets the facts that were settled on the whole recording, and enough sound before and after
the passage for its memory and its look-ahead. What the steps before a changed one made is kept, so
that turning a setting late in the chain costs only the steps from there on.
"""

from __future__ import annotations

import json
import math
from collections import OrderedDict
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from zesty_core.chain.recipe import Chain, ChainStep
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.signal import Block, SignalInfo, Source, Span, joined
from zesty_core.runtime.denormals import flushing_to_zero
from zesty_core.steps.base import Facts, process_blocks

MOST_S = 60.0
#: Pre-roll comes in steps of this, so that a changed setting seldom moves it and what is kept fits.
_PRE_ROLL_STEP_S = 1.0
_LOOK_AHEAD_STEP_S = 0.5


@dataclass(frozen=True)
class Stage:
    """What a step made of the passage; ``key`` stands for everything it depends on."""

    sound: Block
    facts: Facts
    report: dict[str, Any]
    key: str


@dataclass(frozen=True)
class Arrived:
    """The sound at a step's input: the passage is ``first..last`` of the stretch around it."""

    stretch: Block
    first: int
    last: int
    key: str

    @property
    def passage(self) -> Block:
        """The passage alone."""
        return self.stretch[:, self.first : self.last]


#: Tells a step's facts, by its place in the chain and what arrives there.
FactsFor = Callable[[int, ChainStep, Arrived], Facts]


@dataclass(frozen=True)
class Passage:
    """The same stretch before and after, and after each step that ran, by its place in the chain."""

    span: Span
    before: Block
    after: Block
    stages: Mapping[int, Stage]


@dataclass
class PassageCache:
    """What steps made of one stretch, by everything it depends on; the oldest go first.

    One cache serves one source and one room tone.
    """

    most: int = 24
    most_bytes: int = 96 << 20
    _kept: OrderedDict[str, Any] = field(default_factory=OrderedDict)
    _bytes: int = 0

    def get(self, key: str) -> Any:
        """What is kept under ``key``, or None."""
        found = self._kept.get(key)
        if found is not None:
            self._kept.move_to_end(key)
        return found

    def keep(self, key: str, value: Any) -> None:
        """Keep something; forget the oldest beyond ``most`` or, of sound, beyond ``most_bytes``."""
        self._bytes += _sound_bytes(value) - _sound_bytes(self._kept.get(key))
        self._kept[key] = value
        while len(self._kept) > self.most or (
            self._bytes > self.most_bytes and len(self._kept) > 1
        ):
            _, gone = self._kept.popitem(last=False)
            self._bytes -= _sound_bytes(gone)


def _sound_bytes(value: Any) -> int:
    """Bytes of the sound in what is kept; figures weigh next to nothing."""
    if isinstance(value, np.ndarray):
        return value.nbytes
    if isinstance(value, tuple | list):
        return sum(map(_sound_bytes, value))
    return _sound_bytes(value.sound) if hasattr(value, "sound") else 0


def render_passage(
    source: Source,
    chain: Chain,
    facts: Mapping[int, Facts] | FactsFor,
    span: Span,
    cache: PassageCache | None = None,
) -> Passage:
    """Process ``span`` of ``source``.

    Parameters
    ----------
    facts : what was settled on the whole recording for each active step, by its place in the chain
        (``ChainResult.points[i].facts``); or what tells them when the sound arrives there.
    cache : kept between calls on the same source and room tone.

    Raises
    ------
    BadInput
        The span lies outside the recording, is longer than a minute, or a step's facts are missing.
    """
    info = source.info
    Span.checked(span.start_s, span.end_s, "passage", info.duration_s)
    if span.duration_s > MOST_S:
        raise BadInput(
            f"passage: must last at most {MOST_S:g} s, got {span.duration_s:.1f} s", path="passage"
        )
    active = [(i, entry) for i, entry in enumerate(chain) if entry.is_active]
    if not callable(facts):
        missing = [entry.step.type for i, entry in active if i not in facts]
        if missing:
            raise BadInput(
                f"passage: nothing is settled yet for {', '.join(missing)}", path="passage"
            )
    first, last = span.samples(info.sample_rate_hz)
    cache = cache or PassageCache(most=1)
    stages: dict[int, Stage] = {}
    with flushing_to_zero():
        at, stop = _stretch(info, [entry for _, entry in active], first, last)
        sound = _read(source, at, stop, cache)
        before = sound[:, first - at : last - at]
        key = f"{first}..{last} of {stop}"
        for place, (index, entry) in enumerate(active):
            # Each step begins only as early as it and those after it remember.
            begin, _ = _stretch(info, [later for _, later in active[place:]], first, last)
            sound, at = sound[:, max(begin, at) - at :], max(begin, at)
            arrived = Arrived(sound, first - at, last - at, key)
            here = facts(index, entry, arrived) if callable(facts) else facts[index]
            key += f"{at}{_mark(entry, here)}"
            made = cache.get(key)
            if made is None:
                processor = entry.step.start(info, entry.step.facts_from(here, at))
                made = joined(process_blocks(processor, [sound]), info.channels), processor.report()
                cache.keep(key, made)
            sound, report = made
            stages[index] = Stage(sound[:, first - at : last - at], here, report, key)
    return Passage(span, before, sound[:, first - at : last - at], stages)


def _read(source: Source, start: int, stop: int, cache: PassageCache) -> Block:
    """Samples ``start`` to ``stop``, read once."""
    key = f"read {start}..{stop}"
    found: Block | None = cache.get(key)
    if found is None:
        found = source.read(start, stop)
        cache.keep(key, found)
    return found


def _stretch(info: SignalInfo, steps: list[ChainStep], first: int, last: int) -> tuple[int, int]:
    """Samples to process: memory and look-ahead of these steps around the passage."""
    rate = info.sample_rate_hz
    state_decay_s = sum(entry.step.state_decay_s for entry in steps)
    ahead_s = sum(entry.step.look_ahead_s for entry in steps)
    state_decay_s = math.ceil(state_decay_s / _PRE_ROLL_STEP_S) * _PRE_ROLL_STEP_S
    ahead_s = math.ceil(ahead_s / _LOOK_AHEAD_STEP_S) * _LOOK_AHEAD_STEP_S
    # Frames and decisions of every step fall where they do in the whole file.
    grid = math.lcm(*(entry.step.frame_samples(info) for entry in steps))
    start = max(0, first - round(state_decay_s * rate)) // grid * grid
    return start, min(info.length_samples, last + round(ahead_s * rate))


def _mark(entry: ChainStep, facts: Facts) -> str:
    """Everything a step's sound depends on besides its input."""
    return json.dumps([entry.step.type, entry.step.as_params(), facts], sort_keys=True)
