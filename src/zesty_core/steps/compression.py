"""Compression of one signal: of the whole sound in the compressor, of a band in the multiband."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp import biquad
from zesty_core.dsp.cascade import Cascade
from zesty_core.dsp.compression import (
    compress,
    empty_histogram,
    reduction_figures,
    smoothing_coefficient,
)
from zesty_core.dsp.compressor_state import (
    MAKEUP,
    MAKEUP_WANTED,
    MAX_REDUCTION,
    STATE_SIZE,
    Curve,
    Smoothing,
)
from zesty_core.dsp.control_rate import CONTROL_SAMPLES, HopEnergy
from zesty_core.foundation.processor import Processor
from zesty_core.foundation.settings import choice, number, number_or_word, switch
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.steps.base import (
    Facts,
    GainProcessor,
    StepInput,
)
from zesty_core.steps.threshold_step import ThresholdStep
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
#: Facts of a compressor without make-up.
NO_MAKEUP: Facts = {"makeup_db": 0.0}


@dataclass(frozen=True, kw_only=True)
class Compression(ThresholdStep):
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

    def _sentence(self) -> str:
        """In plain words."""
        above = level_words(self.threshold_db, self.follow_voice)
        guard = level_words(self.quiet_guard_db, self.follow_voice)
        return (
            f"Turns down anything louder than {above} at {self.ratio:g}:1; "
            f"does not lift anything quieter than {guard}."
        )


class CompressorProcessor:
    """The compressor on one signal; channels share one gain."""

    def __init__(self, step: Compression, info: SignalInfo, facts: Facts) -> None:
        rate = info.sample_rate_hz
        reference = facts["reference_db"]
        self._step, self._info, self._facts = step, info, facts
        self.threshold_dbfs = step.threshold_db + reference
        guard_dbfs = step.quiet_guard_db + reference
        slope = 1.0 - 1.0 / step.ratio
        # Floats throughout: whole numbers would be compiled for once more.
        self._curve = Curve(
            float(self.threshold_dbfs),
            float(slope),
            float(step.knee_db),
            float(facts["makeup_db"]),
            float(guard_dbfs),
        )
        release_s = step.release_ms / 1000.0
        control_rate = rate / CONTROL_SAMPLES
        self._smoothing = Smoothing(
            attack=smoothing_coefficient(step.attack_ms / 1000.0, rate),
            release=smoothing_coefficient(release_s, rate),
            slow_attack=smoothing_coefficient(release_s * 2.0, rate),
            slow_release=smoothing_coefficient(release_s * 5.0, rate),
            rms_window=smoothing_coefficient(_RMS_WINDOW_S, rate),
            guard_rise=smoothing_coefficient(_GUARD_ATTACK_S, control_rate),
            guard_fall=smoothing_coefficient(_GUARD_RELEASE_S, control_rate),
            makeup_glide=smoothing_coefficient(_MAKEUP_GLIDE_S, rate),
        )
        self._state = np.zeros(STATE_SIZE)
        # What the guard opens to is known from the first sample on; it need not glide in.
        self._state[MAKEUP] = self._state[MAKEUP_WANTED] = min(facts["makeup_db"], 0.0)
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
            self._smoothing,
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
            "max_reduction_db": float(self._state[MAX_REDUCTION]),
            **reduction_figures(self._histogram),
        }
