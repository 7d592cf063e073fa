"""Gate and downward expander: less of what lies between the words.

Level detector with hysteresis, look-ahead, attack, hold, release and a floor: Zoelzer (ed.), DAFX,
2nd ed., ch. 4. The level is the mean square over about 5 ms; attack and release are time constants
(63 %) of the gain in dB. While open, every sample passes bit for bit. Where it follows the voice it
looks past an offset, and leaves that as it is.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.compression import (
    count_reduction,
    empty_histogram,
    reduction_figures,
    smoothing_coefficient,
)
from zesty_core.dsp.control_rate import CONTROL_SAMPLES, GlidingFactor, HopEnergy
from zesty_core.dsp.exponential import exp_db
from zesty_core.foundation.settings import choice, number, switch
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.runtime.kernel import kernel
from zesty_core.steps.base import Facts, GainProcessor, Guide, StepInput
from zesty_core.steps.step_advice import Trait
from zesty_core.steps.threshold_step import ThresholdStep
from zesty_core.steps.voice_reference import (
    NO_VOICE,
    VOICE_PARTS,
    level_words,
    voice_reference_db,
)

_DETECTOR_S = 0.005
#: A gain this near to none counts as none, so that an open gate is exact.
_OPEN_DB = 1e-3
#: An offset smaller than this (-80 dBFS) does nothing to the gate.
_LEAST_OFFSET = 1e-4


@dataclass(frozen=True, kw_only=True)
class Gate(ThresholdStep):
    """Turns down what is quieter than speech."""

    type = "gate"
    label = "Gate"
    summary = "quiets the gaps"
    guide = Guide(
        "Quiets the gaps between words: breaths of the room, page rustle, the last of the noise.",
        (
            "Expander 2:1, floor -12 dB, threshold half-way between room and softest word.",
            "Following the voice: -25 dB.",
            "Lookahead 10 ms, so that no consonant is cut; hold 120 ms, so that no word is.",
        ),
        "Full silence between words is heard as a hole. Use it after noise reduction, not instead.",
    )
    traits = frozenset({Trait.MOVES_NOISE, Trait.HAS_THRESHOLD, Trait.SHUTS_GAPS})
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "Soft between the words": {
            "follow_voice": True, "threshold_db": -24.0, "ratio": 1.5, "floor_db": -8.0,
        },
        "Calm pauses": {"follow_voice": True, "threshold_db": -22.0, "floor_db": -14.0},
        "Shut pauses": {
            "mode": "gate", "follow_voice": True, "threshold_db": -24.0, "floor_db": -40.0,
            "hold_ms": 180.0, "release_ms": 220.0,
        },
    }  # fmt: skip

    mode: str = choice(
        "Mode",
        default="expand",
        choices=("gate", "expand"),
        words={"gate": "Gate", "expand": "Expander"},
        help="A gate shuts to the floor; an expander turns down the more, the quieter it gets.",
    )
    threshold_db: float = number(
        "Threshold",
        unit="dB",
        default=-45.0,
        low=-100,
        high=20,
        usual=(-55, -35),
        usual_following=(-30, -15),
        increment=0.5,
        help="Below this it turns down. dBFS, or dB over the voice level when it follows the voice.",
    )
    follow_voice: bool = switch(
        "Follow the voice",
        default=False,
        help="The threshold counts from the voice level, so one recipe fits every take.",
    )
    ratio: float = number(
        "Ratio",
        unit=": 1",
        default=2.0,
        low=1,
        high=20,
        usual=(1.5, 3),
        help="Expander only: how many dB it falls for each dB under the threshold.",
    )
    hysteresis_db: float = number(
        "Hysteresis",
        unit="dB",
        default=4.0,
        low=0,
        high=30,
        usual=(3, 8),
        increment=0.5,
        help="Gate only: shuts so far below where it opens, so that it does not chatter.",
    )
    floor_db: float = number(
        "Floor",
        unit="dB",
        default=-12.0,
        low=-100,
        high=0,
        usual=(-20, -6),
        increment=0.5,
        help="Never turns down further than this. Full silence between words sounds cut out.",
    )
    open_early_ms: float = number(
        "Lookahead",
        unit="ms",
        default=10.0,
        low=0,
        high=100,
        usual=(5, 20),
        increment=1,
        help="Opens this long before a word, so that no consonant is cut.",
    )
    attack_ms: float = number(
        "Attack",
        unit="ms",
        default=2.0,
        low=0.05,
        high=200,
        usual=(1, 5),
        increment=0.5,
        scale="log",
        help="How fast it opens.",
    )
    hold_ms: float = number(
        "Hold",
        unit="ms",
        default=120.0,
        low=0,
        high=2000,
        usual=(80, 250),
        increment=10,
        help="Stays open this long after the level has fallen.",
    )
    release_ms: float = number(
        "Release",
        unit="ms",
        default=150.0,
        low=1,
        high=5000,
        usual=(80, 300),
        increment=10,
        scale="log",
        help="How fast it shuts.",
    )

    @property
    def is_neutral(self) -> bool:
        """A floor of 0 dB, or an expander at 1:1."""
        return self.floor_db == 0.0 or (self.mode == "expand" and self.ratio == 1.0)

    @property
    def state_decay_s(self) -> float:
        """Hold, and eight times the release."""
        return 0.1 + (self.hold_ms + 8.0 * self.release_ms) / 1000.0

    @property
    def look_ahead_s(self) -> float:
        """It opens early."""
        return self.open_early_ms / 1000.0

    @property
    def measures_wanted(self) -> frozenset[str]:
        """The voice level, where it is followed."""
        return VOICE_PARTS if self.follow_voice else frozenset()

    def facts(self, step_input: StepInput) -> Facts:
        """Level the threshold counts from; followed, the offset of each channel as well."""
        reference = voice_reference_db(self.follow_voice, step_input)
        if reference is None:
            return NO_VOICE
        measures = step_input.measures if self.follow_voice else None
        centres = list(measures.dc_offset) if measures else []
        heard = any(abs(centre) > _LEAST_OFFSET for centre in centres)
        return {"reference_db": reference, "centres": centres if heard else []}

    def start(self, info: SignalInfo, facts: Facts) -> GateProcessor | GainProcessor:
        """New running state."""
        if facts.get("idle"):
            return GainProcessor.idle(info, facts["note"])
        return GateProcessor(self, info, facts["reference_db"], facts["centres"])

    def curve_dbfs(self, facts: Facts, in_dbfs: NDArray[np.float64]) -> NDArray[np.float64] | None:
        """Down to the floor below the threshold: at once, or by the ratio."""
        if facts.get("idle"):
            return None
        under = np.minimum(in_dbfs - self.threshold_db - facts["reference_db"], 0.0)
        if self.mode == "expand":
            return np.asarray(in_dbfs + np.maximum(under * (self.ratio - 1.0), self.floor_db))
        return np.asarray(in_dbfs + np.where(under < 0.0, self.floor_db, 0.0))

    def following_params(self, voice_dbfs: float) -> dict[str, Any]:
        """The same threshold, counted from the voice."""
        return {"follow_voice": True, "threshold_db": round(self.threshold_db - voice_dbfs, 1)}

    def idle_reason(self, report: Mapping[str, Any]) -> str:
        """Why the step does nothing here."""
        return "it never shuts"

    def _sentence(self) -> str:
        """In plain words."""
        below = level_words(self.threshold_db, self.follow_voice)
        if self.mode == "gate":
            return f"Turns everything below {below} down by {-self.floor_db:g} dB."
        return (
            f"Turns down what is below {below}, the more the quieter it is ({self.ratio:g}:1), "
            f"by {-self.floor_db:g} dB at most."
        )


#: Places in the state: mean square, gain in dB, hops of hold left, smallest gain, whether open, times
#: opened.
_MEAN, _GAIN, _HOLD_LEFT, _SMALLEST, _IS_OPEN, _OPENINGS = 0, 1, 2, 3, 4, 5


@kernel
def _gate_factors(
    energies: NDArray[np.float64],
    out: NDArray[np.float32],
    state: NDArray[np.float64],
    levels: NDArray[np.float64],
    coefficients: NDArray[np.float64],
    histogram: NDArray[np.int64],
    expands: bool,
) -> None:
    """Factor to reach after each hop, from the energy of the louder channel in it.

    ``levels``: threshold in dBFS, power at which it opens, power at which it shuts, floor, slope
    (ratio - 1), hops of hold. ``coefficients``: detector, attack, release.
    """
    threshold, opens, shuts, floor, slope, hold = levels
    window, attack, release = coefficients
    mean, gain, held, smallest, is_open, openings = state
    for n in range(energies.shape[0]):
        mean = window * mean + (1.0 - window) * energies[n] / CONTROL_SAMPLES
        if mean >= opens:
            openings += 1.0 if held < 0.0 else 0.0
            is_open = 1.0
        elif mean < shuts:
            is_open = 0.0
        held = hold if is_open > 0.0 else held - 1.0
        wanted = 0.0
        if held < 0.0:
            wanted = floor
            if expands:
                under = threshold - 10.0 * math.log10(mean + 1e-30)
                wanted = max(floor, -slope * max(0.0, under))
        coefficient = attack if wanted > gain else release
        gain = coefficient * gain + (1.0 - coefficient) * wanted
        gain = 0.0 if gain > -_OPEN_DB and wanted == 0.0 else gain
        smallest = gain if gain < smallest else smallest
        count_reduction(histogram, -gain)
        out[n] = np.float32(1.0 if gain == 0.0 else exp_db(gain))
    state[_MEAN], state[_GAIN], state[_HOLD_LEFT] = mean, gain, held
    state[_SMALLEST], state[_IS_OPEN], state[_OPENINGS] = smallest, is_open, openings


class GateProcessor:
    """The gate on one signal, aligned with its input; channels share one gain."""

    def __init__(
        self, step: Gate, info: SignalInfo, reference_db: float, centres: list[float]
    ) -> None:
        rate = info.sample_rate_hz
        self._expands = step.mode == "expand"
        self.threshold_dbfs = step.threshold_db + reference_db
        hysteresis = 0.0 if self._expands else step.hysteresis_db
        # A decision takes one hop to be made and one to be reached.
        early_s = step.open_early_ms / 1000.0
        self._early = round(early_s * rate) + 2 * CONTROL_SAMPLES
        control_rate = rate / CONTROL_SAMPLES
        # The gain comes early, at the end of a word too: hold makes up for that.
        hold = round((early_s + step.hold_ms / 1000.0) * control_rate)
        self._levels = np.array(
            [
                self.threshold_dbfs,
                10.0 ** (self.threshold_dbfs / 10.0),
                10.0 ** ((self.threshold_dbfs - hysteresis) / 10.0),
                step.floor_db,
                step.ratio - 1.0,
                float(hold),
            ]
        )
        self._coefficients = np.array(
            [
                smoothing_coefficient(_DETECTOR_S, control_rate),
                smoothing_coefficient(step.attack_ms / 1000.0, control_rate),
                smoothing_coefficient(step.release_ms / 1000.0, control_rate),
            ]
        )
        # Recordings begin in room tone: shut, without a fade from open.
        self._state = np.array([0.0, step.floor_db, -1.0, 0.0, 0.0, 0.0])
        # An offset over the threshold would hold it open for ever, and turned down it would thump.
        self._centres = np.array(centres, np.float32)[:, None]
        self._energy = HopEnergy(info.channels, centres)
        self._factor = GlidingFactor(exp_db(step.floor_db))
        self._histogram = empty_histogram()
        self._held_back = np.zeros((info.channels, 0), np.float32)

    def push(self, block: Block) -> Block:
        """Gate a block; the first samples come out once the look-ahead is filled."""
        factors = self._factors(block)
        held = self._held_back
        kept = held.shape[1]
        ready = max(0, kept + block.shape[1] - self._early)
        used = factors[len(factors) - ready :]
        out = np.empty((len(block), ready), np.float32)
        np.multiply(held[:, :ready], used[:kept], out=out[:, :kept])
        fresh = max(0, ready - kept)
        np.multiply(block[:, :fresh], used[kept:], out=out[:, kept:])
        self._keep_offset(out, used)
        rest = block[:, fresh:]
        self._held_back = np.concatenate([held[:, ready:], rest], axis=1)
        return out

    def finish(self) -> Block:
        """Give the samples still in the look-ahead."""
        left = self._held_back
        silence = np.zeros((len(left), self._early), np.float32)
        if len(self._centres):
            silence += self._centres
        factors = self._factors(silence)
        used = factors[self._early - left.shape[1] :]
        shaped: Block = left * used
        self._keep_offset(shaped, used)
        return shaped

    def _keep_offset(self, shaped: Block, factors: NDArray[np.float32]) -> None:
        """Put back what was turned down of the offset."""
        if len(self._centres):
            shaped += self._centres * (np.float32(1.0) - factors)

    def _factors(self, block: Block) -> NDArray[np.float32]:
        energies = self._energy.push(block)
        goals = np.empty(len(energies), np.float32)
        _gate_factors(
            energies,
            goals,
            self._state,
            self._levels,
            self._coefficients,
            self._histogram,
            self._expands,
        )
        return self._factor.push(goals, block.shape[1])

    def report(self) -> dict[str, Any]:
        """Typical and largest reduction, share of time shut, how often it opened."""
        return {
            "threshold_dbfs": self.threshold_dbfs,
            "max_reduction_db": float(-self._state[_SMALLEST]),
            "openings": int(self._state[_OPENINGS]),
            **reduction_figures(self._histogram),
        }
