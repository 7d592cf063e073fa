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
from numpy.typing import NDArray

from zesty_core.dsp import biquad
from zesty_core.dsp.cascade import Cascade
from zesty_core.dsp.compression import (
    compress,
    empty_histogram,
    pace,
    reduction_figures,
)
from zesty_core.dsp.control_rate import CONTROL_SAMPLES, HopEnergy
from zesty_core.settings import choice, number, number_or_word, switch
from zesty_core.signal import Block, SignalInfo
from zesty_core.steps.advising import Remark, StepAtWork, Trait
from zesty_core.steps.base import Facts, GainProcessor, Guide, Processor, Step, StepInput, rendered
from zesty_core.steps.pictures import PicturedPassage
from zesty_core.steps.voice_reference import (
    NO_VOICE,
    VOICE_PARTS,
    level_words,
    voice_reference_db,
)

_GUARD_ATTACK_S, _GUARD_RELEASE_S = 0.005, 0.060
_MAKEUP_GLIDE_S = 0.005
_RMS_WINDOW_S = 0.010
MOST_MAKEUP_DB = 24.0


#: More than this off typical words is heard as squeezed (common practice, no source).
_MUCH_REDUCTION_DB = 12.0
#: Facts of a compressor that turns nothing up.
NO_MAKEUP: Facts = {"makeup_db": 0.0}
#: Thresholds that count from the voice, and what is quiet left alone.
_FOLLOWS: dict[str, Any] = {"follow_voice": True, "quiet_guard_db": -24.0}


@dataclass(frozen=True, kw_only=True)
class Compression(Step):
    """Turns loud words down, then all above the quiet guard up again; also a multiband's band."""

    type = "compressor"
    label = "Compressor"
    summary = "evens loud and soft"
    work_ns = 8.0

    threshold_db: float = number(
        "Threshold",
        unit="dB",
        default=-18.0,
        low=-80,
        high=30,
        usual=(-20, -12),
        usual_following=(-8, 4),
        help="Above this it turns down. dBFS, or dB over the voice level when it follows the voice.",
    )
    follow_voice: bool = switch(
        "Follow the voice",
        default=False,
        help="Threshold and guard count from the voice level, so one recipe fits every take.",
    )
    ratio: float = number(
        "Ratio",
        unit=": 1",
        default=2.0,
        low=1,
        high=50,
        usual=(1.5, 4),
        help="How many dB of rise in become one dB of rise out.",
    )
    knee_db: float = number(
        "Knee",
        unit="dB",
        default=6.0,
        low=0,
        high=40,
        usual=(3, 12),
        increment=0.5,
        help="Width over which it eases in.",
    )
    attack_ms: float = number(
        "Attack",
        unit="ms",
        default=8.0,
        low=0.05,
        high=500,
        usual=(3, 20),
        increment=0.5,
        scale="log",
        help="How fast it turns down.",
    )
    release_ms: float = number(
        "Release",
        unit="ms",
        default=120.0,
        low=1,
        high=5000,
        usual=(60, 250),
        increment=5,
        scale="log",
        help="How fast it lets go.",
    )
    auto_release: bool = switch(
        "Automatic release",
        default=False,
        help="Lets go of single loud moments fast and of long loud stretches slowly.",
    )
    detector: str = choice(
        "Detector",
        default="peak",
        choices=("peak", "rms"),
        words={"peak": "Peak", "rms": "RMS"},
        help="Reacts to single peaks, or to the average of 10 ms.",
    )
    makeup_db: float | str = number_or_word(
        "Make-up",
        word="auto",
        unit="dB",
        default="auto",
        low=-24,
        high=24,
        usual=(0, 6),
        help="Gain afterwards. Automatic: brings the voice level back to what it was.",
    )
    quiet_guard_db: float = number(
        "Quiet guard",
        unit="dB",
        default=-40.0,
        low=-120,
        high=0,
        usual=(-50, -38),
        usual_following=(-30, -18),
        help="Anything under this level is not lifted by the make-up.",
    )
    mix: float = number(
        "Mix",
        default=1.0,
        low=0,
        high=1,
        usual=(0.5, 1),
        increment=0.05,
        help="1 is all compressed, 0 all dry.",
    )
    sidechain_high_pass_hz: float = number(
        "Sidechain high-pass",
        unit="Hz",
        default=0.0,
        low=0,
        high=2000,
        usual=(0, 120),
        increment=5,
        help="The detector does not hear below this, so thumps do not pump. 0 is off.",
    )

    @property
    def is_neutral(self) -> bool:
        """All dry, or neither reduction nor gain."""
        idle = self.ratio == 1.0 and self.makeup_db in (0.0, "auto")
        return self.mix == 0.0 or idle

    @property
    def state_decay_s(self) -> float:
        """Eight times the slowest release: less than 0.05 % of a gain is left."""
        slowest = 5.0 if self.auto_release else 1.0
        return 0.1 + 8.0 * slowest * self.release_ms / 1000.0

    @property
    def measures_wanted(self) -> frozenset[str]:
        """The voice level, where it is followed or brought back."""
        wanted = self.follow_voice or self.makeup_db == "auto"
        return VOICE_PARTS if wanted else frozenset()

    @property
    def wants_trial(self) -> bool:
        """For the automatic make-up."""
        return self.makeup_db == "auto"

    def trial(self, step_input: StepInput) -> Processor | None:
        """Run without make-up, to see what it takes from the voice."""
        reference = voice_reference_db(self.follow_voice, step_input)
        voiced = step_input.measures and step_input.measures.voice_level_dbfs is not None
        if not self.wants_trial or reference is None or not voiced:
            return None
        return self.start(step_input.info, {"reference_db": reference, "makeup_db": 0.0})

    def facts(self, step_input: StepInput) -> Facts:
        """Level the thresholds count from, and the make-up gain."""
        reference = voice_reference_db(self.follow_voice, step_input)
        if reference is None:
            return NO_VOICE
        makeup = self.makeup_db
        if isinstance(makeup, str):
            before = step_input.measures.voice_level_dbfs if step_input.measures else None
            after = step_input.trial.voice_level_dbfs if step_input.trial else None
            lost = before - after if before is not None and after is not None else 0.0
            makeup = min(max(lost, 0.0), MOST_MAKEUP_DB)
        return {"reference_db": reference, "makeup_db": makeup}

    def start(self, info: SignalInfo, facts: Facts) -> CompressorProcessor | GainProcessor:
        """New running state."""
        if facts.get("idle"):
            return GainProcessor.idle(info, facts["note"])
        return CompressorProcessor(self, info, facts)

    def curve_dbfs(self, facts: Facts, in_dbfs: NDArray[np.float64]) -> NDArray[np.float64] | None:
        """Soft knee, then the make-up above the guard (eq. 4 of the source)."""
        if facts.get("idle"):
            return None
        over = in_dbfs - self.threshold_db - facts["reference_db"]
        slope = 1.0 - 1.0 / self.ratio
        knee = max(self.knee_db, 1e-9)
        bend = slope * (over + knee / 2.0) ** 2 / (2.0 * knee)
        reduction = np.where(
            2.0 * over > knee, slope * over, np.where(2.0 * over > -knee, bend, 0.0)
        )
        lifted = in_dbfs >= self.quiet_guard_db + facts["reference_db"]
        makeup = facts["makeup_db"]
        gain = np.where(lifted, makeup, min(makeup, 0.0)) - reduction
        mixed = 20.0 * np.log10(1.0 - self.mix + self.mix * 10.0 ** (gain / 20.0))
        return np.asarray(in_dbfs + mixed)

    def frame_samples(self, info: SignalInfo) -> int:
        """Decisions fall on every so many samples."""
        return CONTROL_SAMPLES

    @property
    def absolute_threshold_dbfs(self) -> float | None:
        """The threshold, where it counts from full scale."""
        return None if self.follow_voice else self.threshold_db

    def _sentence(self) -> str:
        """In plain words."""
        above = level_words(self.threshold_db, self.follow_voice)
        guard = level_words(self.quiet_guard_db, self.follow_voice)
        return (
            f"Turns down anything louder than {above} at {self.ratio:g}:1; "
            f"does not lift anything quieter than {guard}."
        )


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

    def turned_down(self, passage: PicturedPassage) -> Block:
        """What came out without the make-up."""
        facts = passage.facts
        return (
            rendered(self, passage, facts | NO_MAKEUP) if facts.get("makeup_db") else passage.after
        )

    def remarks(self, at_work: StepAtWork) -> Iterator[Remark]:
        """Speech that is squeezed."""
        typical = at_work.report.get("typical_reduction_db")
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


class CompressorProcessor:
    """The compressor on one signal; channels share one gain."""

    def __init__(self, step: Compression, info: SignalInfo, facts: Facts) -> None:
        rate = info.sample_rate_hz
        reference = facts["reference_db"]
        self._step, self._info, self._facts = step, info, facts
        self.threshold_dbfs = step.threshold_db + reference
        guard_dbfs = step.quiet_guard_db + reference
        slope = 1.0 - 1.0 / step.ratio
        self._curve = np.array(
            [self.threshold_dbfs, slope, step.knee_db, facts["makeup_db"], guard_dbfs]
        )
        release_s = step.release_ms / 1000.0
        control_rate = rate / CONTROL_SAMPLES
        self._paces = np.array(
            [
                pace(step.attack_ms / 1000.0, rate),
                pace(release_s, rate),
                pace(release_s * 2.0, rate),
                pace(release_s * 5.0, rate),
                pace(_RMS_WINDOW_S, rate),
                pace(_GUARD_ATTACK_S, control_rate),
                pace(_GUARD_RELEASE_S, control_rate),
                pace(_MAKEUP_GLIDE_S, rate),
            ]
        )
        self._state = np.zeros(8)
        # What the guard opens to is known from the first sample on; it need not glide in.
        self._state[5] = self._state[6] = min(facts["makeup_db"], 0.0)
        self._histogram = empty_histogram()
        self._energy = HopEnergy(info.channels)
        self._side = None
        if step.sidechain_high_pass_hz >= 10.0:
            q = biquad.BUTTERWORTH_Q[12][0]
            row = biquad.high_pass(min(step.sidechain_high_pass_hz, 0.45 * rate), q, rate)
            self._side = Cascade(np.array([row]), info.channels)

    def push(self, block: Block) -> Block:
        """Compress a block."""
        heard = self._side(block) if self._side else block
        out = np.empty_like(block)
        compress(
            block,
            heard,
            self._energies(heard),
            out,
            self._state,
            self._curve,
            self._paces,
            self._histogram,
            self._step.detector == "rms",
            self._step.auto_release,
            self._step.mix,
        )
        return out

    def _energies(self, heard: Block) -> NDArray[np.float64]:
        """For the guard, which has nothing to do where there is no make-up."""
        if self._facts["makeup_db"] > 0.0:
            return self._energy.push(heard)
        return np.zeros(0)

    def finish(self) -> Block:
        """Nothing is held back."""
        return np.zeros((self._info.channels, 0), np.float32)

    def report(self) -> dict[str, Any]:
        """Typical and largest reduction, share of time at work, make-up."""
        return {
            "makeup_db": self._facts["makeup_db"],
            "threshold_dbfs": self.threshold_dbfs,
            "max_reduction_db": float(self._state[7]),
            **reduction_figures(self._histogram),
        }
