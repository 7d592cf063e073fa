"""Compressor: less gap between loud and soft words.

Feed-forward, in the log domain, with a soft knee and a smooth branching detector after the gain
computer: Giannoulis, Massberg & Reiss, "Digital Dynamic Range Compressor Design", JAES 60(6), 2012,
eq. 4 (static curve) and eq. 16 (ballistics). Attack and release are time constants (63 %).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from zesty_core.foundation.processor import Processor
from zesty_core.foundation.settings import number_or_word
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.steps.base import (
    Facts,
    Guide,
    StepInput,
    process_passage,
)
from zesty_core.steps.compression import (
    MOST_MAKEUP_DB,
    NO_MAKEUP,
    Compression,
    CompressorProcessor,
)
from zesty_core.steps.pictures import PicturedPassage
from zesty_core.steps.step_advice import Remark, StepContext, Trait
from zesty_core.steps.voice_reference import (
    VOICE_PARTS,
    voice_reference_db,
)

#: More reduction of typical words sounds squeezed (common practice, no source).
_MUCH_REDUCTION_DB = 12.0
#: Thresholds that follow the voice, with the quiet guard on.
_FOLLOWS: dict[str, Any] = {"follow_voice": True, "quiet_guard_db": -24.0}


@dataclass(frozen=True, kw_only=True)
class Compressor(Compression):
    """Compression of the whole sound, whose make-up can aim at a peak."""

    guide = Guide(
        "Makes loud and soft words more alike, then brings the voice back to where it was.",
        (
            "2:1 to 3:1, attack 8 ms, release 120 ms, 2 to 6 dB on words.",
            "Following the voice: threshold +3 dB, quiet guard -24 dB.",
        ),
        "More than 12 dB on most words is heard as pressure. Without the quiet guard, make-up lifts "
        "the room.",
    )
    traits = frozenset(
        {Trait.MOVES_NOISE, Trait.HAS_THRESHOLD, Trait.COMPRESSES, Trait.RAISES_PEAKS}
    )
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "Gentle narration": {**_FOLLOWS, "threshold_db": -2.0, "ratio": 2.0, "attack_ms": 10.0},
        "Lively talk": {**_FOLLOWS, "threshold_db": -5.0, "ratio": 3.0, "auto_release": True},
        "Dense, for a video": {**_FOLLOWS, "threshold_db": -8.0, "ratio": 4.0, "release_ms": 90.0},
        "Loud words alone": {**_FOLLOWS, "threshold_db": 3.0, "ratio": 6.0, "attack_ms": 2.0},
    }  # fmt: skip

    makeup_peak_dbfs: float | str = number_or_word(
        "Make-up to peak",
        word="off",
        unit="dBFS",
        default="off",
        low=-24,
        high=0,
        usual=(-6, -1),
        help="Brings the highest peak behind it to this, whatever the make-up says. Exact where all "
        "is compressed (mix 100 %).",
    )

    @property
    def _to_peak(self) -> bool:
        return not isinstance(self.makeup_peak_dbfs, str)

    @property
    def is_neutral(self) -> bool:
        """All dry, or neither reduction nor gain."""
        return self.mix == 0.0 or (super().is_neutral and not self._to_peak)

    @property
    def measures_wanted(self) -> frozenset[str]:
        """The voice level, where it is followed or brought back."""
        if self._to_peak:
            return VOICE_PARTS if self.follow_voice else frozenset()
        return super().measures_wanted

    @property
    def wants_trial(self) -> bool:
        """For the automatic make-up, and for that to a peak."""
        return self._to_peak or super().wants_trial

    @property
    def trial_parts(self) -> frozenset[str]:
        """The peak or the voice that is left."""
        return frozenset({"peak"}) if self._to_peak else super().trial_parts

    def trial(self, step_input: StepInput) -> Processor | None:
        """Run without make-up, to see what is left."""
        if not self._to_peak:
            return super().trial(step_input)
        reference = voice_reference_db(self.follow_voice, step_input)
        if reference is None:
            return None
        assert not isinstance(self.makeup_peak_dbfs, str)
        return _NeededMakeup(self, step_input.info, reference, self.makeup_peak_dbfs)

    def facts(self, step_input: StepInput) -> Facts:
        """Level the thresholds count from, and the make-up gain."""
        facts = super().facts(step_input)
        if facts.get("idle") or isinstance(self.makeup_peak_dbfs, str):
            return facts
        least = step_input.trial.sample_peak_dbfs if step_input.trial else None
        makeup = 0.0 if least is None else float(np.clip(-least, -MOST_MAKEUP_DB, MOST_MAKEUP_DB))
        return facts | {"makeup_db": makeup}

    @classmethod
    def warm_up_cases(cls) -> tuple[Compressor, ...]:
        """With and without a filter before the detector."""
        return cls(), cls(sidechain_high_pass_hz=80.0)

    def following_params(self, voice_dbfs: float) -> dict[str, Any]:
        """The same threshold and guard, counted from the voice."""
        return {
            "follow_voice": True,
            "threshold_db": round(self.threshold_db - voice_dbfs, 1),
            "quiet_guard_db": round(min(0.0, self.quiet_guard_db - voice_dbfs), 1),
        }

    def without_makeup(self, passage: PicturedPassage) -> Block:
        """What came out without the make-up."""
        facts = passage.facts
        if not facts.get("makeup_db"):
            return passage.after
        return process_passage(self, passage, facts | NO_MAKEUP)

    def remarks(self, context: StepContext) -> Iterator[Remark]:
        """Speech that is squeezed."""
        typical = context.report.get("typical_reduction_db")
        if typical is not None and typical > _MUCH_REDUCTION_DB:
            yield Remark(
                "much_compression",
                f"The compressor takes {typical:.1f} dB from typical words; over "
                f"{_MUCH_REDUCTION_DB:g} dB speech sounds squeezed.",
                "Raise its threshold by 6 dB",
                {"threshold_db": min(30.0, self.threshold_db + 6.0)},
            )


class _NeededMakeup:
    """Trial of the make-up to a peak: outputs, per sample, minus the make-up in dB that would bring it
    to the wanted peak, as a factor. The peak of this output gives the smallest make-up needed.

    The quiet guard fades make-up in, so only a share of it reaches some samples. Comparing a run
    without make-up with one of 1 dB gives that share.
    """

    _LEAST_SHARE, _LEAST = 1e-3, 1e-6

    def __init__(
        self, step: Compression, info: SignalInfo, reference_db: float, peak_dbfs: float
    ) -> None:
        self._runs = [
            CompressorProcessor(step, info, {"reference_db": reference_db, "makeup_db": makeup_db})
            for makeup_db in (0.0, 1.0)
        ]
        self._peak_dbfs = peak_dbfs

    def push(self, block: Block) -> Block:
        """Needed make-up of a block."""
        return self._needed(*(run.push(block.copy()) for run in self._runs))

    def finish(self) -> Block:
        """Needed make-up of what was held back."""
        return self._needed(*(run.finish() for run in self._runs))

    def report(self) -> dict[str, Any]:
        """Nothing."""
        return {}

    def _needed(self, plain: Block, lifted: Block) -> Block:
        size = np.maximum(np.abs(plain), self._LEAST)
        missing_db = self._peak_dbfs - 20.0 * np.log10(size)
        share = 20.0 * np.log10(np.maximum(np.abs(lifted), self._LEAST) / size)
        # Where it is turned down, no guard holds it back.
        share = np.where(missing_db < 0.0, 1.0, np.clip(share, self._LEAST_SHARE, 1.0))
        return np.asarray(10.0 ** (-missing_db / share / 20.0), np.float32)
