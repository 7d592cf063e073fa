"""De-esser: turns down sharp s and sh sounds, and only their band.

The band is split off by a linear-phase filter whose complement is exact (``dsp.linear_phase``), so
nothing outside the band is touched and nothing at all while no sibilant is heard. The detector is
the mean square of the band over about 1 ms, cut off at 24 dB per octave below, where vowels lie.
Followed, the threshold counts from the voice's own level as the detector hears it, averaged over its
speech (common practice, no published source).
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp import biquad
from zesty_core.dsp.cascade import Cascade
from zesty_core.dsp.compression import (
    count_reduction,
    empty_histogram,
    reduction_figures,
    smoothing_coefficient,
)
from zesty_core.dsp.control_rate import CONTROL_SAMPLES, GlidingFactor, HopEnergy
from zesty_core.dsp.exponential import exp_db
from zesty_core.dsp.linear_phase import band_pass, turn_band_down
from zesty_core.foundation.errors import BadSetting
from zesty_core.foundation.settings import number, switch
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.runtime.kernel import kernel
from zesty_core.steps.base import Facts, GainProcessor, Guide, StepInput
from zesty_core.steps.pictures import PicturedPassage, work_in_band
from zesty_core.steps.step_advice import Trait
from zesty_core.steps.threshold_step import ThresholdStep
from zesty_core.steps.voice_reference import NO_VOICE, VOICE_PARTS, heard_reference_db

_DETECTOR_S = 0.001
_IDLE_DB = 1e-2
#: A band that begins above this share of the rate does not exist.
_HIGHEST_SHARE = 0.45


@dataclass(frozen=True, kw_only=True)
class DeEsser(ThresholdStep):
    """Softens sharp s sounds."""

    type = "de_esser"
    label = "De-esser"
    summary = "softens sharp s sounds"
    guide = Guide(
        "Softens s and sh where they are sharp, and nothing else.",
        (
            "5 to 10 kHz, 6 dB over the voice's own level there, at most 6 dB.",
            "Deep voices: from 4.5 kHz. Bright ones: from 6.5 kHz.",
        ),
        "More than 8 dB lisps. Put it before an EQ that lifts the top, then look again.",
    )
    traits = frozenset({Trait.HAS_THRESHOLD})
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "Light": {"threshold_db": 8.0, "max_reduction_db": 4.0},
        "Sharp voice": {"threshold_db": 4.0, "max_reduction_db": 8.0},
        "Low, broad s": {"low_hz": 3500.0, "high_hz": 8000.0, "max_reduction_db": 6.0},
    }  # fmt: skip
    work_ns = 12.0

    low_hz: float = number(
        "From",
        unit="Hz",
        default=5000.0,
        low=1000,
        high=20_000,
        usual=(4500, 7000),
        increment=100,
        scale="log",
        help="Lower edge of the band that is turned down.",
    )
    high_hz: float = number(
        "To",
        unit="Hz",
        default=10_000.0,
        low=1500,
        high=24_000,
        usual=(8000, 12_000),
        increment=100,
        scale="log",
        help="Upper edge of the band.",
    )
    threshold_db: float = number(
        "Threshold",
        unit="dB",
        default=6.0,
        low=-100,
        high=40,
        usual=(3, 10),
        increment=0.5,
        help="Level of the band above which it is turned down: dB over the voice's own average "
        "in the band, or dBFS when it does not follow the voice.",
    )
    follow_voice: bool = switch(
        "Follow the voice",
        default=True,
        help="The threshold counts from the voice's own level in the band.",
    )
    max_reduction_db: float = number(
        "Max reduction",
        unit="dB",
        default=6.0,
        low=0,
        high=40,
        usual=(4, 8),
        increment=0.5,
        help="Never turns the band down further. Too much and it lisps.",
    )
    attack_ms: float = number(
        "Attack",
        unit="ms",
        default=1.0,
        low=0.05,
        high=50,
        usual=(0.5, 3),
        increment=0.1,
        scale="log",
        help="How fast it turns down.",
    )
    release_ms: float = number(
        "Release",
        unit="ms",
        default=40.0,
        low=1,
        high=1000,
        usual=(20, 80),
        increment=5,
        scale="log",
        help="How fast it lets go.",
    )

    def __post_init__(self) -> None:
        super().__post_init__()
        if self.high_hz <= self.low_hz:
            raise BadSetting("high_hz", self.high_hz, f"must be above low_hz ({self.low_hz:g})")

    @property
    def is_neutral(self) -> bool:
        """No reduction allowed."""
        return self.max_reduction_db == 0.0

    @property
    def state_decay_s(self) -> float:
        """Eight times the release."""
        return 0.05 + 8.0 * self.release_ms / 1000.0

    @property
    def look_ahead_s(self) -> float:
        """Half the filter's length."""
        return 0.01

    @property
    def measures_wanted(self) -> frozenset[str]:
        """The voice's spectrum, where it is followed."""
        return VOICE_PARTS | {"spectrum"} if self.follow_voice else frozenset()

    def facts(self, step_input: StepInput) -> Facts:
        """Level the threshold counts from."""
        if self.low_hz >= _HIGHEST_SHARE * step_input.info.sample_rate_hz:
            rate = step_input.info.sample_rate_hz
            return {"idle": True, "note": f"left as it is: at {rate} Hz there is no such band"}
        if not self.follow_voice:
            return {"reference_db": 0.0}
        filtered = self.detector_filter(step_input.info.sample_rate_hz)
        reference = heard_reference_db(step_input, filtered)
        return NO_VOICE if reference is None else {"reference_db": reference}

    def detector_filter(self, rate: int) -> biquad.Sections:
        """Filter of the detector; in the middle of the band it hears the true level."""
        below = [biquad.high_pass(self.low_hz, q, rate) for q in biquad.BUTTERWORTH_Q[24]]
        rows = np.array(below)
        highest_hz = _HIGHEST_SHARE * rate
        if self.high_hz < highest_hz:
            q = biquad.BUTTERWORTH_Q[12][0]
            rows = np.array([*below, biquad.low_pass(self.high_hz, q, rate)])
        middle_hz = np.array([min(np.sqrt(self.low_hz * self.high_hz), highest_hz)])
        rows[0, :3] *= 10.0 ** (-biquad.response_db(rows, middle_hz, rate)[0] / 20.0)
        return rows

    def start(self, info: SignalInfo, facts: Facts) -> DeEsserProcessor | GainProcessor:
        """New running state."""
        if facts.get("idle"):
            return GainProcessor.idle(info, facts["note"])
        return DeEsserProcessor(self, info, facts["reference_db"])

    @classmethod
    def warm_up_cases(cls) -> tuple[DeEsser, ...]:
        """One that finds something to do in any sound."""
        return (cls(threshold_db=-60.0, follow_voice=False),)

    @property
    def softened_band_hz(self) -> tuple[float, float]:
        """The band it works in."""
        return self.low_hz, self.high_hz

    def work(self, passage: PicturedPassage) -> list[list[float | None]]:
        """Change of level within the band."""
        rate = passage.sample_rate_hz
        return [work_in_band(passage.before, passage.after, rate, self.low_hz, self.high_hz)]

    def _sentence(self) -> str:
        """In plain words."""
        over = (
            f"{self.threshold_db:g} dB over the voice's own level there"
            if self.follow_voice
            else f"{self.threshold_db:g} dBFS"
        )
        return (
            f"Turns {self.low_hz / 1000:g} to {self.high_hz / 1000:g} kHz down where it is louder "
            f"than {over}, by {self.max_reduction_db:g} dB at most."
        )


#: Places in the state: mean square, reduction, largest reduction.
_MEAN, _REDUCTION, _LARGEST = 0, 1, 2


@kernel
def _factors(
    energies: NDArray[np.float64],
    out: NDArray[np.float32],
    state: NDArray[np.float64],
    coefficients: NDArray[np.float64],
    histogram: NDArray[np.int64],
    threshold_dbfs: float,
    most_db: float,
) -> None:
    """Factor on the band to reach after each hop, from the band's energy in it.

    ``coefficients``: detector, attack, release.
    """
    window, attack, release = coefficients
    mean, reduction, largest = state
    loud = 10.0 ** (threshold_dbfs / 10.0)
    for n in range(energies.shape[0]):
        mean = window * mean + (1.0 - window) * energies[n] / CONTROL_SAMPLES
        wanted = 0.0
        if mean > loud:
            over = 10.0 * math.log10(mean) - threshold_dbfs
            wanted = min(most_db, max(0.0, over))
        coefficient = attack if wanted > reduction else release
        reduction = coefficient * reduction + (1.0 - coefficient) * wanted
        reduction = 0.0 if reduction < _IDLE_DB and wanted == 0.0 else reduction
        largest = reduction if reduction > largest else largest
        count_reduction(histogram, reduction)
        out[n] = np.float32(1.0 if reduction == 0.0 else exp_db(-reduction))
    state[_MEAN], state[_REDUCTION], state[_LARGEST] = mean, reduction, largest


class DeEsserProcessor:
    """The de-esser on one signal, aligned with its input; channels share one gain."""

    def __init__(self, step: DeEsser, info: SignalInfo, reference_db: float) -> None:
        rate = info.sample_rate_hz
        self.threshold_dbfs = step.threshold_db + reference_db
        self._most_db = step.max_reduction_db
        self._taps = band_pass(step.low_hz, step.high_hz, rate)
        self._half = len(self._taps) // 2
        self._detector_filter = Cascade(step.detector_filter(rate), info.channels)
        self._energy = HopEnergy(info.channels)
        self._factor = GlidingFactor(1.0)
        control_rate = rate / CONTROL_SAMPLES
        self._coefficients = np.array(
            [
                smoothing_coefficient(_DETECTOR_S, control_rate),
                smoothing_coefficient(step.attack_ms / 1000.0, control_rate),
                smoothing_coefficient(step.release_ms / 1000.0, control_rate),
            ]
        )
        self._state = np.zeros(3)
        self._histogram = empty_histogram()
        # Half the filter's length stands before the first sample.
        self._line = np.zeros((info.channels, self._half), np.float32)
        self._waiting = np.zeros(0, np.float32)

    def push(self, block: Block) -> Block:
        """Take a block; half the filter's length is held back."""
        line = np.concatenate([self._line, block], axis=1)
        energies = self._energy.push(self._detector_filter(block))
        goals = np.empty(len(energies), np.float32)
        _factors(
            energies,
            goals,
            self._state,
            self._coefficients,
            self._histogram,
            self.threshold_dbfs,
            self._most_db,
        )
        factors = self._factor.push(goals, block.shape[1])
        factors = np.concatenate([self._waiting, factors])
        ready = max(0, line.shape[1] - 2 * self._half)
        out = np.empty((len(line), ready), np.float32)
        for channel, samples in enumerate(line):
            turn_band_down(samples, self._taps, factors[:ready], out[channel])
        self._line = line[:, ready:].copy()
        self._waiting = factors[ready:]
        return out

    def finish(self) -> Block:
        """Give the samples held back."""
        length = len(self._waiting)
        silence = np.zeros((len(self._line), self._half), np.float32)
        return self.push(silence)[:, :length]

    def report(self) -> dict[str, Any]:
        """Typical and largest reduction, share of time at work."""
        return {
            "threshold_dbfs": self.threshold_dbfs,
            "max_reduction_db": float(self._state[_LARGEST]),
            **reduction_figures(self._histogram),
        }
