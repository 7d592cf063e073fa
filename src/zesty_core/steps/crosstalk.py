"""Crosstalk: with one speaker on each side, a side is turned down while only the other's speaks.

How much of each voice arrives on the other's side is the median of the level differences while one side
is louder, taken from the whole recording. Common practice (an automatic mixer of two microphones that
compares their levels), no published source; times are common practice for gates.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.compression import smoothing_coefficient
from zesty_core.dsp.control_rate import CONTROL_SAMPLES, GlidingFactor, HopEnergy
from zesty_core.dsp.exponential import exp_db
from zesty_core.foundation.settings import number
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.measures.speaker_frames import SpeakerFrames
from zesty_core.runtime.kernel import kernel
from zesty_core.steps.base import Facts, GainProcessor, Guide, Step, StepInput
from zesty_core.steps.step_advice import Trait

_DETECTOR_S, _EARLY_S, _HOLD_S, _ATTACK_S, _RELEASE_S = 0.02, 0.03, 0.05, 0.005, 0.04
#: Somebody speaks where the louder side lies no further under the loudest twentieth.
_SPEECH_UNDER_LOUD_DB = 30.0
#: A side is louder from here on; sides closer than this to each other hold no speaker each.
_LOUDER_DB, _LEAST_APART_DB = 3.0, 6.0
#: A side so far over the crosstalk has a voice of its own: it opens, and shuts a little lower.
_OVER_CROSSTALK_DB, _HYSTERESIS_DB = 6.0, 2.0
_FEWEST_FRAMES = 50


@dataclass(frozen=True, kw_only=True)
class Crosstalk(Step):
    """Turns each side down while only the other speaks."""

    type = "crosstalk"
    label = "Crosstalk"
    summary = "each voice on its own side"
    guide = Guide(
        "For an interview with one microphone, and one side, for each speaker: turns down what each "
        "microphone picks up of the other voice, and can bring both sides closer together.",
        (
            "Depth 18 dB, width 100 %, before the sides are made mono or narrow.",
            "For headphones: width 40 %, so that nobody sits in one ear.",
        ),
        "Where both voices come equally loud from both sides there is nothing to go by, and it does "
        "nothing. While both speak at once both sides stay open.",
    )
    traits = frozenset({Trait.MOVES_NOISE, Trait.SHUTS_GAPS})
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "For headphones": {"width_percent": 40.0},
        "One in the middle": {"width_percent": 0.0},
    }
    work_ns = 6.0

    depth_db: float = number(
        "Depth",
        unit="dB",
        default=18.0,
        low=0,
        high=60,
        usual=(10, 20),
        increment=1,
        help="How far a side is turned down while only the other speaks.",
    )
    width_percent: float = number(
        "Width",
        unit="%",
        default=100.0,
        low=0,
        high=100,
        usual=(30, 100),
        increment=5,
        help="How far apart the sides stay: 100 % as they are, 0 % the same on both.",
    )

    @property
    def is_neutral(self) -> bool:
        """Nothing is turned down, and the sides stay as they are."""
        return self.depth_db == 0.0 and self.width_percent == 100.0

    @property
    def state_decay_s(self) -> float:
        """Detector, hold and eight releases."""
        return 1.5

    @property
    def look_ahead_s(self) -> float:
        """It opens early."""
        return _EARLY_S

    def frame_samples(self, info: SignalInfo) -> int:
        """Decisions fall on hops."""
        return CONTROL_SAMPLES

    @property
    def measures_wanted(self) -> frozenset[str]:
        """Levels of the sides over time."""
        return frozenset({"speakers"})

    @property
    def facts_params(self) -> dict[str, Any]:
        """The facts are of the recording alone."""
        return {}

    def facts(self, step_input: StepInput) -> Facts:
        """By how much each side is louder while its own speaker speaks, and how loud speech is."""
        if step_input.info.channels != 2:
            return {"note": "left as it is: it needs two sides"}
        frames = step_input.measures.speaker_frames if step_input.measures else None
        found = _apart(frames) if frames is not None else None
        if found is None:
            return {"note": "left as it is: there is no voice on each side"}
        return found

    def start(self, info: SignalInfo, facts: Facts) -> CrosstalkProcessor | GainProcessor:
        """New running state."""
        if "note" in facts:
            return GainProcessor.idle(info, facts["note"])
        return CrosstalkProcessor(self, info, facts)

    def _sentence(self) -> str:
        """In plain words."""
        if self.is_neutral:
            return "Leaves the sides as they are."
        parts = []
        if self.depth_db > 0:
            parts.append(
                f"turns each side down by {self.depth_db:g} dB while only the other speaks"
            )
        if self.width_percent < 100:
            parts.append(f"brings the sides together to {self.width_percent:g} %")
        words = " and ".join(parts)
        return f"{words[0].upper()}{words[1:]}."


def _apart(frames: SpeakerFrames) -> Facts | None:
    """What tells whose turn it is; None where the sides do not."""
    level, side = frames.level_dbfs.astype(np.float64), frames.side_db.astype(np.float64)
    if not len(level):
        return None
    threshold_dbfs = float(np.percentile(level, 95)) - _SPEECH_UNDER_LOUD_DB
    speech = level > threshold_dbfs
    apart = []
    for louder in (side, -side):
        own = louder[speech & (louder > _LOUDER_DB)]
        if len(own) < _FEWEST_FRAMES or np.median(own) < _LEAST_APART_DB:
            return None
        apart.append(float(np.median(own)))
    return {
        "left_over_right_db": apart[0],
        "right_over_left_db": apart[1],
        "speech_dbfs": threshold_dbfs,
    }


#: Rows of the state: mean square, whether open, hops of hold left, gain in dB, hops shut.
_MEAN, _IS_OPEN, _HOLD_LEFT, _GAIN, _SHUT = range(5)


@kernel
def _side_factors(
    energies: NDArray[np.float64],
    out: NDArray[np.float32],
    state: NDArray[np.float64],
    ratios: NDArray[np.float64],
    settings: NDArray[np.float64],
) -> None:
    """Factors to reach after each hop for both sides, from their energies, shape (2, hops).

    ``ratios``, of powers: a side opens from the first, and shuts below the second, times the other's;
    one row for each side. ``settings``: least power of speech, depth in dB, hops of hold, coefficients
    of detector, attack and release.
    """
    least, depth, hold, window, attack, release = settings
    for n in range(energies.shape[1]):
        for side in range(2):
            energy = energies[side, n] / CONTROL_SAMPLES
            state[side, _MEAN] = window * state[side, _MEAN] + (1.0 - window) * energy
        speaks = max(state[0, _MEAN], state[1, _MEAN]) > least
        for side in range(2):
            own, other = state[side, _MEAN], state[1 - side, _MEAN]
            if speaks:
                # In a pause a side stays as it is.
                if own > ratios[side, 0] * other:
                    state[side, _IS_OPEN] = 1.0
                    state[side, _HOLD_LEFT] = hold
                elif own < ratios[side, 1] * other:
                    state[side, _HOLD_LEFT] -= 1.0
                    if state[side, _HOLD_LEFT] < 0.0:
                        state[side, _IS_OPEN] = 0.0
            wanted = 0.0 if state[side, _IS_OPEN] > 0.0 else -depth
            gain = state[side, _GAIN]
            coefficient = attack if wanted > gain else release
            gain = coefficient * gain + (1.0 - coefficient) * wanted
            gain = 0.0 if gain > -1e-3 and wanted == 0.0 else gain
            state[side, _GAIN] = gain
            state[side, _SHUT] += 1.0 if wanted < 0.0 else 0.0
            out[side, n] = np.float32(1.0 if gain == 0.0 else exp_db(gain))


class CrosstalkProcessor:
    """The step on two sides, aligned with its input."""

    def __init__(self, step: Crosstalk, info: SignalInfo, facts: Facts) -> None:
        control_rate = info.sample_rate_hz / CONTROL_SAMPLES
        self._facts, self._width = facts, step.width_percent / 100.0
        # A decision takes one hop to be made and one to be reached.
        self._early = round(_EARLY_S * info.sample_rate_hz) + 2 * CONTROL_SAMPLES
        opens = np.array([facts["right_over_left_db"], facts["left_over_right_db"]])
        opens = np.minimum(_OVER_CROSSTALK_DB - opens, -1.0)
        self._ratios = 10.0 ** (np.stack([opens, opens - _HYSTERESIS_DB], axis=1) / 10.0)
        self._settings = np.array(
            [
                10.0 ** (facts["speech_dbfs"] / 10.0),
                step.depth_db,
                round((_EARLY_S + _HOLD_S) * control_rate),
                smoothing_coefficient(_DETECTOR_S, control_rate),
                smoothing_coefficient(_ATTACK_S, control_rate),
                smoothing_coefficient(_RELEASE_S, control_rate),
            ]
        )
        self._state = np.zeros((2, 5))
        self._state[:, _IS_OPEN] = 1.0
        self._energy = [HopEnergy(1), HopEnergy(1)]
        self._factors = [GlidingFactor(1.0), GlidingFactor(1.0)]
        self._hops = 0
        self._held: Block = np.zeros((2, 0), np.float32)

    def push(self, block: Block) -> Block:
        """Shape a block; the first samples come out once the look-ahead is filled."""
        factors = self._next_factors(block)
        held = np.concatenate([self._held, block], axis=1)
        ready = max(0, held.shape[1] - self._early)
        self._held = held[:, ready:].copy()
        return self._narrowed(held[:, :ready] * factors[:, factors.shape[1] - ready :])

    def finish(self) -> Block:
        """Give the samples still in the look-ahead."""
        factors = self._next_factors(np.zeros((2, self._early), np.float32))
        left = self._held
        return self._narrowed(left * factors[:, self._early - left.shape[1] :])

    def _next_factors(self, block: Block) -> NDArray[np.float32]:
        energies = np.array([e.push(block[k : k + 1]) for k, e in enumerate(self._energy)])
        goals = np.empty(energies.shape, np.float32)
        _side_factors(energies, goals, self._state, self._ratios, self._settings)
        self._hops += energies.shape[1]
        return np.array([f.push(goals[k], block.shape[1]) for k, f in enumerate(self._factors)])

    def _narrowed(self, sides: Block) -> Block:
        if self._width == 1.0:
            return sides
        own, other = np.float32((1.0 + self._width) / 2.0), np.float32((1.0 - self._width) / 2.0)
        return own * sides + other * sides[::-1]

    def report(self) -> dict[str, Any]:
        """Crosstalk as it came, and how much of the time each side is turned down."""
        shut = self._state[:, _SHUT] / max(1, self._hops)
        return {
            "crosstalk_left_db": -self._facts["right_over_left_db"],
            "crosstalk_right_db": -self._facts["left_over_right_db"],
            "left_down_share": float(shut[0]),
            "right_down_share": float(shut[1]),
        }
