"""The contract between a step and the runner.

A :class:`Step` is a frozen, validated description that can be stored, compared and sent. For each
signal the runner settles the step's *facts* (whatever it must know about the whole signal, such as
a peak) and asks for a :class:`Processor`, which holds the running state. With the facts kept, any
passage of a file can be processed exactly as the whole was.
"""

from __future__ import annotations

import dataclasses
import re
from abc import abstractmethod
from collections.abc import Iterable, Iterator, Mapping
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from zesty_core.foundation.processor import Processor
from zesty_core.foundation.repairs import Repairs
from zesty_core.foundation.settings import Declared
from zesty_core.foundation.signal import Block, SignalInfo, joined
from zesty_core.foundation.speakers import Speakers
from zesty_core.measures.report import Measures
from zesty_core.steps.pictures import (
    CURVE_DBFS,
    PicturedPassage,
    level_shares,
    rounded,
    spectra,
    work_over_time,
)
from zesty_core.steps.step_advice import Remark, StepContext, ToneChange, Trait

#: What a step must know about the whole signal; plain JSON values and lists of numbers.
Facts = dict[str, Any]


_HYPHEN_FOR_MINUS = re.compile(r"(?<!\S)-(?=\d)")


@dataclasses.dataclass(frozen=True)
class StepInput:
    """Properties of the sound at a step's input, from which its facts are settled."""

    info: SignalInfo
    #: Measures of the step's whole input; None where the step does not need them.
    measures: Measures | None = None
    #: Measures of the trial's whole output; None where there is no trial.
    trial: Measures | None = None
    #: Room tone as it arrives at this step, shape (channels, samples); None when there is none.
    room_tone: Block | None = None
    #: A stretch in which somebody speaks, as it arrives here, where the room tone was looked for and
    #: is short or none: the room is heard under the words, too.
    spoken: Block | None = None
    #: Who speaks when, where a person has settled it.
    speakers: Speakers | None = None
    #: Events of repairs that a person has refused or added.
    repairs: Repairs | None = None


@dataclasses.dataclass(frozen=True)
class Guide:
    """Plain words about a step. Starting points are common practice, no published source."""

    purpose: str
    starting_points: tuple[str, ...]
    watch_for: str


@dataclasses.dataclass(frozen=True, kw_only=True)
class Step(Declared):
    """Description of one process in a chain."""

    type: ClassVar[str]
    summary: ClassVar[str]
    #: What the step is for, where to start and what to watch for; its page is made from this.
    guide: ClassVar[Guide]
    #: Settings to start from, by what they are for; what is not named stands at its default.
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {}
    traits: ClassVar[frozenset[Trait]] = frozenset()

    @property
    def work_ns(self) -> float:
        """Rough time of one core for a sample of one channel, to estimate the time left."""
        return 5.0

    @property
    def is_neutral(self) -> bool:
        """Whether the settings leave every sound unchanged, so that the step need not run."""
        return False

    @property
    def state_decay_s(self) -> float:
        """How long a sample is remembered audibly; a passage begins that much earlier."""
        return 0.0

    @property
    def look_ahead_s(self) -> float:
        """How far ahead of a sample the step looks."""
        return 0.0

    def frame_samples(self, info: SignalInfo) -> int:
        """Samples between two decisions of the step, counted from the start of the signal.

        A passage begins on a multiple of it, so that decisions fall where they do in the whole.
        """
        return 1

    @classmethod
    def warm_up_cases(cls) -> tuple[Step, ...]:
        """Steps that between them run every compiled kernel of this type."""
        return (cls(),)

    @property
    def measures_wanted(self) -> frozenset[str]:
        """Parts of :class:`FullMeter` whose figures of the whole input the facts need."""
        return frozenset()

    @property
    def needs_room_tone(self) -> bool:
        """Whether the facts need room tone."""
        return False

    @property
    def wants_trial(self) -> bool:
        """Whether there is a :meth:`trial` for most sounds."""
        return False

    def trial(self, step_input: StepInput) -> Processor | None:
        """Processor whose whole output is to be measured before the facts are settled."""
        return None

    @property
    def trial_parts(self) -> frozenset[str]:
        """Parts of :class:`FullMeter` that are measured on the trial's output."""
        return frozenset({"speech", "noise"})

    @property
    def facts_params(self) -> dict[str, Any]:
        """Settings that the facts depend on: all, unless a step knows better."""
        return self.as_params()

    def facts(self, step_input: StepInput) -> Facts:
        """Settle what the processor must know; needs ``step_input`` as announced above."""
        return {}

    def facts_from(self, facts: Facts, first_sample: int | None) -> Facts:
        """The facts for sound that begins with this sample of the whole; None for room tone by itself.

        For steps that do one thing at one time and another at another.
        """
        return facts

    def whole_moved_db(self, facts: Facts) -> tuple[float, float] | None:
        """By how much the facts move the voice level of the whole, and its peak, in dB.

        None where a passage shows it, which is so for steps that do the same at all times.
        """
        return None

    @abstractmethod
    def start(self, info: SignalInfo, facts: Facts) -> Processor:
        """New running state for a signal."""

    def tone_report(self, room_tone: Block, info: SignalInfo, facts: Facts) -> dict[str, Any]:
        """What the step did to the room tone it learned from; asked for after the sound is made."""
        return {}

    @property
    def may_be_plain_gain(self) -> bool:
        """Whether :meth:`plain_gain_db` has an answer for most sounds."""
        return type(self).plain_gain_db is not Step.plain_gain_db

    def plain_gain_db(self, facts: Facts) -> float | None:
        """Gain in dB if the step is nothing but a constant gain; levels after it need no meter."""
        return None

    def plain_offsets(self, facts: Facts) -> tuple[float, ...]:
        """What is taken from each channel before a plain gain, if anything is."""
        return ()

    def curve_dbfs(self, facts: Facts, in_dbfs: NDArray[np.float64]) -> NDArray[np.float64] | None:
        """Level of a steady sound after the step by its level before it; None where that is no
        picture of the step."""
        return None

    def without_makeup(self, passage: PicturedPassage) -> Block:
        """Output without the gain that the step adds to everything."""
        return passage.after

    def work(self, passage: PicturedPassage) -> list[list[float | None]]:
        """Change of level over the passage in dB, one curve per band; None where it is too quiet."""
        return [work_over_time(passage.before, self.without_makeup(passage))]

    def picture(self, passage: PicturedPassage) -> dict[str, Any]:
        """Data of the step's picture: spectra, levels, work over time, curve of output over input.

        Steps add their own keys to ``spectrum``, ``levels``, ``work`` and ``curve``; the API describes
        all of them.
        """
        picture: dict[str, Any] = {
            "spectrum": spectra(passage),
            "levels": level_shares(passage),
            "work": self.work(passage),
        }
        curve = self.curve_dbfs(passage.facts, CURVE_DBFS)
        if curve is not None:
            picture["curve"] = {"in_dbfs": rounded(CURVE_DBFS), "out_dbfs": rounded(curve)}
        return picture

    def remarks(self, context: StepContext) -> Iterable[Remark]:
        """Findings about this step that it can judge by itself."""
        return ()

    @property
    def absolute_threshold_dbfs(self) -> float | None:
        """Threshold that counts from full scale; None where it follows the voice or there is none."""
        return None

    def following_params(self, voice_dbfs: float) -> Mapping[str, Any]:
        """Settings that follow a voice of this level with the same thresholds; empty for none."""
        return {}

    @property
    def peak_ceiling_dbtp(self) -> float | None:
        """Ceiling that the step sets for true peaks."""
        return None

    @property
    def tone_changes(self) -> tuple[ToneChange, ...]:
        """Deliberate changes of tone."""
        return ()

    @property
    def softened_band_hz(self) -> tuple[float, float] | None:
        """Band in which sharp sounds are turned down."""
        return None

    def idle_reason(self, report: Mapping[str, Any]) -> str:
        """Why the step does nothing here."""
        return f"its threshold of {report['threshold_dbfs']:.1f} dBFS is never reached"

    def sentence(self) -> str:
        """What the step does, in one plain sentence made from its settings."""
        return _HYPHEN_FOR_MINUS.sub("\N{MINUS SIGN}", self._sentence())

    @abstractmethod
    def _sentence(self) -> str:
        """The sentence; its minus signs may be hyphens."""


class GainProcessor:
    """Constant gain and offset per channel."""

    def __init__(
        self, factors: Iterable[float], offsets: Iterable[float], report: dict[str, Any]
    ) -> None:
        self._factors = np.array([*factors], np.float32)[:, None]
        self._offsets = np.array([*offsets], np.float32)[:, None]
        self._report = report

    @classmethod
    def idle(cls, info: SignalInfo, note: str) -> GainProcessor:
        """Passes everything unchanged and says why."""
        return cls([1.0] * info.channels, [0.0] * info.channels, {"note": note})

    def push(self, block: Block) -> Block:
        """Offset, then gain."""
        if not self._offsets.any():
            return block * self._factors
        out = block - self._offsets
        out *= self._factors
        return out

    def finish(self) -> Block:
        """Nothing is held back."""
        return np.zeros((len(self._factors), 0), np.float32)

    def report(self) -> dict[str, Any]:
        """Gain and offset applied."""
        return self._report


def process_blocks(processor: Processor, blocks: Iterable[Block]) -> Iterator[Block]:
    """Everything ``processor`` makes of ``blocks``.

    Parameters
    ----------
    processor : Processor
        Fresh from ``Step.processor``.
    blocks : iterable of arrays, shape (channels, samples)
        The whole input.

    Returns
    -------
    blocks : iterator of arrays
        As many samples as went in.
    """
    for block in blocks:
        out = processor.push(block)
        if out.shape[1]:
            yield out
    rest = processor.finish()
    if rest.shape[1]:
        yield rest


def process_passage(step: Step, passage: PicturedPassage, facts: Facts) -> Block:
    """Process the passage again with other facts."""
    info = SignalInfo(passage.sample_rate_hz, *passage.before.shape)
    return joined(process_blocks(step.start(info, facts), [passage.before]), len(passage.before))
