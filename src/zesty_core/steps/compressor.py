"""Compressor: less gap between loud and soft words.

Feed-forward, in the log domain, with a soft knee and a smooth branching detector after the gain
computer: Giannoulis, Massberg & Reiss, "Digital Dynamic Range Compressor Design", JAES 60(6), 2012,
eq. 4 (static curve) and eq. 16 (ballistics). Attack and release are time constants (63 %).
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp import biquad
from zesty_core.dsp.exponential import exp_db
from zesty_core.dsp.kernel import kernel
from zesty_core.settings import choice, number, number_or_word, switch
from zesty_core.signal import Block, SignalInfo
from zesty_core.steps.base import Facts, Step, Survey

#: The make-up gain is decided once per so many samples and glides in between.
_CONTROL_SAMPLES = 16
_GUARD_FADE_DB = 6.0
_GUARD_ATTACK_S, _GUARD_RELEASE_S = 0.005, 0.060
_MAKEUP_GLIDE_S = 0.005
_RMS_WINDOW_S = 0.010
_MOST_MAKEUP_DB = 24.0
_HISTOGRAM_DB = 0.1
_HISTOGRAM_BINS = 600
#: Below this reduction the compressor counts as idle.
_ACTIVE_DB = 0.5


@dataclass(frozen=True, kw_only=True)
class Compressor(Step):
    """Turns loud words down, then everything above the quiet guard up again."""

    type = "compressor"
    label = "Compressor"
    summary = "evens loud and soft"

    threshold_db: float = number(
        "Threshold",
        unit="dB",
        default=-18.0,
        low=-80,
        high=30,
        usual=(-20, -12),
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
        "Deaf below",
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
    def measures_wanted(self) -> frozenset[str]:
        """The voice level, where it is followed or brought back."""
        wanted = self.follow_voice or self.makeup_db == "auto"
        return frozenset({"peak", "speech", "noise"} if wanted else ())

    def _reference_db(self, survey: Survey) -> float | None:
        if not self.follow_voice:
            return 0.0
        return survey.measures.voice_level_dbfs if survey.measures else None

    def trial(self, survey: Survey) -> CompressorProcessor | None:
        """Run without make-up, to see what it takes from the voice."""
        reference = self._reference_db(survey)
        voiced = survey.measures and survey.measures.voice_level_dbfs is not None
        if self.makeup_db != "auto" or reference is None or not voiced:
            return None
        return self.start(survey.info, {"reference_db": reference, "makeup_db": 0.0})

    def facts(self, survey: Survey) -> Facts:
        """Level the thresholds count from, and the make-up gain."""
        reference = self._reference_db(survey)
        if reference is None:
            return {"idle": True, "note": "left as it is: no voice to follow"}
        makeup = self.makeup_db
        if isinstance(makeup, str):
            before = survey.measures.voice_level_dbfs if survey.measures else None
            after = survey.trial.voice_level_dbfs if survey.trial else None
            lost = before - after if before is not None and after is not None else 0.0
            makeup = min(max(lost, 0.0), _MOST_MAKEUP_DB)
        return {"reference_db": reference, "makeup_db": makeup}

    def start(self, info: SignalInfo, facts: Facts) -> CompressorProcessor:
        """New running state."""
        if facts.get("idle"):
            idle = replace(self, mix=0.0)
            facts = {"reference_db": 0.0, "makeup_db": 0.0, "note": facts["note"]}
            return CompressorProcessor(idle, info, facts)
        return CompressorProcessor(self, info, facts)

    def sentence(self) -> str:
        """In plain words."""
        above = (
            f"{abs(self.threshold_db):g} dB {'over' if self.threshold_db >= 0 else 'under'} "
            "the voice level"
            if self.follow_voice
            else f"{self.threshold_db:g} dBFS"
        )
        guard = (
            f"{abs(self.quiet_guard_db):g} dB under the voice"
            if self.follow_voice
            else f"{self.quiet_guard_db:g} dBFS"
        )
        return (
            f"Turns down anything louder than {above} at {self.ratio:g}:1; "
            f"does not lift anything quieter than {guard}."
        )


@kernel
def static_reduction_db(
    level_db: float, threshold_db: float, slope: float, knee_db: float
) -> float:
    """Reduction of the static curve, ``slope = 1 - 1/ratio``. Giannoulis et al. 2012, eq. 4."""
    over = level_db - threshold_db
    if 2.0 * over <= -knee_db:
        return 0.0
    if 2.0 * over < knee_db:
        return slope * (over + knee_db / 2.0) ** 2 / (2.0 * knee_db)
    return slope * over


@kernel
def _gains_db(
    squares: NDArray[np.float64],
    out_db: NDArray[np.float64],
    state: NDArray[np.float64],
    curve: NDArray[np.float64],
    pace: NDArray[np.float64],
    histogram: NDArray[np.int64],
    rms: bool,
    auto_release: bool,
) -> None:
    """Gain in dB for each sample, from the squared magnitude the detector hears.

    ``state``: reduction, slow reduction, mean square of the detector, guard power, energy and
    samples of the guard's open hop, make-up now, make-up wanted, largest reduction.
    ``curve``: threshold, slope, knee, lowest square that is turned down, make-up, guard level.
    ``pace``: coefficients of attack, release, slow attack, slow release, RMS window, guard rise,
    guard fall, make-up glide.
    """
    threshold, slope, knee, lowest, makeup, guard = curve
    attack, release, slow_attack, slow_release, window, guard_up, guard_down, glide = pace
    # Locals stay in registers; a state array would be written at every sample.
    reduction, slow, square_mean, guard_power = state[0], state[1], state[2], state[3]
    energy, filled, lift, lift_wanted, largest = state[4], state[5], state[6], state[7], state[8]
    for n in range(squares.shape[0]):
        square = squares[n]
        loud = square
        if rms:
            square_mean = window * square_mean + (1.0 - window) * square
            loud = square_mean
        wanted = 0.0
        if loud > lowest:
            wanted = static_reduction_db(10.0 * math.log10(loud), threshold, slope, knee)
        pace_now = attack if wanted > reduction else release
        reduction = pace_now * reduction + (1.0 - pace_now) * wanted
        applied = reduction
        if auto_release:
            pace_now = slow_attack if wanted > slow else slow_release
            slow = pace_now * slow + (1.0 - pace_now) * wanted
            applied = slow if slow > reduction else reduction
        energy += square
        filled += 1.0
        if filled == _CONTROL_SAMPLES:
            power = energy / _CONTROL_SAMPLES
            pace_now = guard_up if power > guard_power else guard_down
            guard_power = pace_now * guard_power + (1.0 - pace_now) * power
            lift_wanted = makeup
            if makeup > 0.0:
                above = 10.0 * math.log10(guard_power + 1e-20) - guard
                lift_wanted = makeup * min(1.0, max(0.0, above / _GUARD_FADE_DB))
            index = int(applied / _HISTOGRAM_DB)
            histogram[min(index, histogram.shape[0] - 1)] += 1
            energy = 0.0
            filled = 0.0
        lift = glide * lift + (1.0 - glide) * lift_wanted
        largest = applied if applied > largest else largest
        out_db[n] = lift - applied
    state[0], state[1], state[2], state[3] = reduction, slow, square_mean, guard_power
    state[4], state[5], state[6], state[7], state[8] = energy, filled, lift, lift_wanted, largest


@kernel
def _largest_squares(heard: Block, out: NDArray[np.float64]) -> None:
    """Squared magnitude of the louder channel."""
    first = heard[0]
    for n in range(out.shape[0]):
        v = np.float64(first[n])
        out[n] = v * v
    for channel in range(1, heard.shape[0]):
        samples = heard[channel]
        for n in range(out.shape[0]):
            v = np.float64(samples[n])
            out[n] = v * v if v * v > out[n] else out[n]


@kernel
def _apply_db(block: Block, gain_db: NDArray[np.float64], mix: float, out: Block) -> None:
    """Dry and turned-down sound mixed."""
    dry = 1.0 - mix
    for channel in range(block.shape[0]):
        samples, into = block[channel], out[channel]
        for n in range(samples.shape[0]):
            into[n] = np.float32(samples[n] * (dry + mix * exp_db(gain_db[n])))


class CompressorProcessor:
    """The compressor on one signal; channels share one gain."""

    def __init__(self, step: Compressor, info: SignalInfo, facts: Facts) -> None:
        rate = info.sample_rate_hz
        reference = facts["reference_db"]
        self._step, self._info, self._facts = step, info, facts
        self.threshold_dbfs = step.threshold_db + reference
        guard_dbfs = step.quiet_guard_db + reference
        slope = 1.0 - 1.0 / step.ratio
        lowest = 10.0 ** ((self.threshold_dbfs - step.knee_db / 2.0) / 10.0)
        self._curve = np.array(
            [self.threshold_dbfs, slope, step.knee_db, lowest, facts["makeup_db"], guard_dbfs]
        )
        release_s = step.release_ms / 1000.0
        control_rate = rate / _CONTROL_SAMPLES
        self._pace = np.array(
            [
                _pace(step.attack_ms / 1000.0, rate),
                _pace(release_s, rate),
                _pace(release_s * 2.0, rate),
                _pace(release_s * 5.0, rate),
                _pace(_RMS_WINDOW_S, rate),
                _pace(_GUARD_ATTACK_S, control_rate),
                _pace(_GUARD_RELEASE_S, control_rate),
                _pace(_MAKEUP_GLIDE_S, rate),
            ]
        )
        self._state = np.zeros(9)
        # What the guard opens to is known from the first sample on; it need not glide in.
        self._state[6] = self._state[7] = min(facts["makeup_db"], 0.0)
        self._histogram = np.zeros(_HISTOGRAM_BINS, np.int64)
        self._side = None
        if step.sidechain_high_pass_hz >= 10.0:
            q = biquad.BUTTERWORTH_Q[12][0]
            row = biquad.high_pass(min(step.sidechain_high_pass_hz, 0.45 * rate), q, rate)
            self._side = biquad.Cascade(np.array([row]), info.channels)

    def push(self, block: Block) -> Block:
        """Compress a block."""
        heard = self._side(block) if self._side else block
        out = np.empty_like(block)
        squares, gain_db = np.empty(block.shape[1]), np.empty(block.shape[1])
        _largest_squares(heard, squares)
        _gains_db(
            squares,
            gain_db,
            self._state,
            self._curve,
            self._pace,
            self._histogram,
            self._step.detector == "rms",
            self._step.auto_release,
        )
        _apply_db(block, gain_db, self._step.mix, out)
        return out

    def finish(self) -> Block:
        """Nothing is held back."""
        return np.zeros((self._info.channels, 0), np.float32)

    def report(self) -> dict[str, Any]:
        """Typical and largest reduction, share of time at work, make-up."""
        report = {
            "makeup_db": self._facts["makeup_db"],
            "threshold_dbfs": self.threshold_dbfs,
            "max_reduction_db": float(self._state[8]),
            **reduction_figures(self._histogram),
        }
        if self._facts.get("note"):
            report["note"] = self._facts["note"]
        return report


def reduction_figures(histogram: NDArray[np.int64]) -> dict[str, float]:
    """Median reduction while at work, and the share of time at work, from a 0.1 dB histogram."""
    first = round(_ACTIVE_DB / _HISTOGRAM_DB)
    active = histogram[first:]
    total, at_work = int(histogram.sum()), int(active.sum())
    if not at_work:
        return {"typical_reduction_db": 0.0, "active_share": 0.0}
    median = int(np.searchsorted(np.cumsum(active), at_work / 2))
    return {
        "typical_reduction_db": round((first + median) * _HISTOGRAM_DB, 1),
        "active_share": at_work / total,
    }


def _pace(time_s: float, rate: float) -> float:
    """Coefficient of a one-pole smoother with this time constant."""
    return math.exp(-1.0 / (time_s * rate))
