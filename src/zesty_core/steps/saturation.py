"""Saturation: soft rounding of peaks, which adds harmonics that sound warm.

A hyperbolic tangent at several times the sampling rate, so that the harmonics do not fold back; the
voice level comes out as it went in. How hard the curve is driven counts from the peaks of the voice
(12 dB over its level, common practice, no published source), so a quiet take is treated alike.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.extremes import largest_magnitude
from zesty_core.dsp.fast_tanh import tanh_row
from zesty_core.dsp.oversampling import TAPS, oversampling, phases
from zesty_core.foundation.processor import Processor
from zesty_core.foundation.settings import number
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.foundation.units import db_to_factor, factor_to_db
from zesty_core.runtime.kernel import kernel
from zesty_core.steps.base import Facts, GainProcessor, Guide, Step, StepInput
from zesty_core.steps.step_advice import Remark, StepContext, Trait
from zesty_core.steps.voice_reference import VOICE_PARTS

_PEAKS_OVER_VOICE_DB = 12.0
#: Samples worked on together; they stay in the processor's nearest cache.
_GROUP = 1024


#: Peaks rounded by more are heard as dirt (common practice, no source).
_MUCH_ROUNDING_DB = 6.0


@dataclass(frozen=True, kw_only=True)
class Saturation(Step):
    """Rounds peaks and adds warmth."""

    type = "saturation"
    label = "Saturation"
    summary = "rounds peaks, adds warmth"
    guide = Guide(
        "Rounds the highest peaks and adds overtones that sound warm; the level stays.",
        ("Drive 2 to 4 dB. A mix of a half keeps it in the background.",),
        "It cannot be taken away later. Clean narration rarely needs it.",
    )
    traits = frozenset({Trait.RAISES_PEAKS})
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "A little warmth": {"drive_db": 3.0},
        "Old desk": {"drive_db": 8.0, "mix": 0.6},
    }
    work_ns = 29.0

    drive_db: float = number(
        "Drive",
        unit="dB",
        default=3.0,
        low=0,
        high=36,
        usual=(1, 6),
        increment=0.5,
        help="How hard the peaks of the voice are pushed into the curve. 0 does nothing.",
    )
    mix: float = number(
        "Mix",
        default=1.0,
        low=0,
        high=1,
        usual=(0.3, 1),
        increment=0.05,
        help="1 is all saturated, 0 all dry.",
    )

    @property
    def is_neutral(self) -> bool:
        """No drive, or all dry."""
        return self.drive_db == 0.0 or self.mix == 0.0

    @property
    def look_ahead_s(self) -> float:
        """Taps of the filter."""
        return 0.01

    @property
    def measures_wanted(self) -> frozenset[str]:
        """Voice level, or the peak where there is no voice."""
        return VOICE_PARTS | {"peak"}

    def _reference(self, step_input: StepInput) -> float | None:
        """Level in dBFS of the peaks that the drive counts from; None for silence."""
        measures = step_input.measures
        assert measures is not None
        if measures.voice_level_dbfs is not None:
            return measures.voice_level_dbfs + _PEAKS_OVER_VOICE_DB
        return measures.sample_peak_dbfs

    @property
    def wants_trial(self) -> bool:
        """For the gain that brings the level back."""
        return True

    def trial(self, step_input: StepInput) -> Processor | None:
        """Run at no gain, to see what it takes from the level."""
        reference = self._reference(step_input)
        if reference is None:
            return None
        return self.start(step_input.info, {"reference_dbfs": reference, "makeup_db": 0.0})

    def facts(self, step_input: StepInput) -> Facts:
        """Where the curve bends, and the gain that brings the level back."""
        reference, before, after = (
            self._reference(step_input),
            step_input.measures,
            step_input.trial,
        )
        if reference is None or before is None or after is None:
            return {"idle": True, "note": "silence was left as it is"}
        voices = before.voice_level_dbfs, after.voice_level_dbfs
        averages = before.rms_dbfs, after.rms_dbfs
        was, now = voices if None not in voices else averages
        lost = was - now if was is not None and now is not None else 0.0
        return {"reference_dbfs": reference, "makeup_db": lost}

    def start(self, info: SignalInfo, facts: Facts) -> SaturationProcessor | GainProcessor:
        """New running state."""
        if facts.get("idle"):
            return GainProcessor.idle(info, facts["note"])
        return SaturationProcessor(self, info, facts)

    def curve_dbfs(self, facts: Facts, in_dbfs: NDArray[np.float64]) -> NDArray[np.float64] | None:
        """Of peaks: the bend, mixed in, and the gain that brings the level back."""
        if facts.get("idle"):
            return None
        amount = db_to_factor(self.drive_db) - 1.0
        peak = db_to_factor(facts["reference_dbfs"])
        x = 10.0 ** (in_dbfs / 20.0)
        bent = np.tanh(x * amount / peak) * peak / amount
        return np.asarray(20.0 * np.log10(x + self.mix * (bent - x)) + facts["makeup_db"])

    def remarks(self, context: StepContext) -> Iterator[Remark]:
        """Peaks that are rounded until it is heard as dirt."""
        rounded_db = context.report.get("max_reduction_db")
        if rounded_db is not None and rounded_db > _MUCH_ROUNDING_DB:
            yield Remark(
                "much_saturation",
                f"Saturation rounds the highest peak by {rounded_db:.1f} dB; that is heard as dirt.",
                "Halve its drive",
                {"drive_db": round(self.drive_db / 2.0, 1)},
            )

    def _sentence(self) -> str:
        """In plain words."""
        share = "" if self.mix == 1.0 else f", mixed in at {self.mix * 100:g} %"
        return f"Rounds the peaks of the voice with {self.drive_db:g} dB of drive{share}."


@kernel
def _add_filtered(near: Block, taps: Block, acc: Block) -> None:
    """Add what ``taps`` make of a row; eight of them a turn, so that sums stay in registers."""
    size = acc.shape[0]
    for k in range(0, TAPS, 4):
        t0, t1, t2, t3 = taps[k], taps[k + 1], taps[k + 2], taps[k + 3]

        x0, x1, x2, x3 = near[k:], near[k + 1 :], near[k + 2 :], near[k + 3 :]

        for n in range(size):
            acc[n] += (t0 * x0[n] + t1 * x1[n]) + (t2 * x2[n] + t3 * x3[n])


@kernel
def _saturate(x: Block, up: Block, down: Block, inward: float, outward: float, out: Block) -> None:
    """Interpolate, bend each point, and filter back down; ``x`` has ``2 (TAPS - 1)`` more samples.

    ``up`` are the taps of the phases between the samples, ``down`` the same from last to first: put
    together with the sample itself they are a low-pass at half the sampling rate.
    """
    scale = np.float32(outward / (up.shape[0] + 1))
    rows = np.empty((2, _GROUP + TAPS - 1), np.float32)
    for first in range(0, out.shape[0], _GROUP):
        size = min(_GROUP, out.shape[0] - first)
        many = size + TAPS - 1
        near = x[first : first + many + TAPS - 1]
        into, dense, bent = out[first : first + size], rows[0, :many], rows[1, :many]
        # The sample itself passes both filters as it is.
        tanh_row(near[TAPS - 1 : TAPS - 1 + size], inward, into)
        for phase in range(up.shape[0]):
            dense[:] = np.float32(0.0)
            _add_filtered(near, up[phase], dense)
            tanh_row(dense, inward, bent)
            _add_filtered(bent, down[phase], into)
        for n in range(size):
            into[n] *= scale


@kernel
def _mix_in(dry: Block, wet: Block, mix: float, gain: float) -> None:
    """Make ``wet`` the mixture of both."""
    share, level = np.float32(mix), np.float32(gain)
    for n in range(wet.shape[0]):
        wet[n] = (dry[n] + share * (wet[n] - dry[n])) * level


class SaturationProcessor:
    """The curve on one signal, aligned with its input."""

    def __init__(self, step: Saturation, info: SignalInfo, facts: Facts) -> None:
        amount = db_to_factor(step.drive_db) - 1.0
        peak = db_to_factor(facts["reference_dbfs"])
        self._inward, self._outward = amount / peak, peak / amount
        self._makeup_db = float(facts["makeup_db"])
        self._gain, self._mix = db_to_factor(self._makeup_db), step.mix
        self._up = phases(oversampling(info.sample_rate_hz))
        self._down = np.ascontiguousarray(self._up[:, ::-1])
        # Interpolating looks this far ahead; filtering back down undoes its delay the other way.
        self._ahead = TAPS - 1
        self._line = np.zeros((info.channels, self._ahead), np.float32)
        self._peak_in, self._peak_out = 0.0, 0.0

    def push(self, block: Block) -> Block:
        """Take a block; a few samples are held back."""
        line = np.concatenate([self._line, block], axis=1)
        ready = max(0, line.shape[1] - 2 * self._ahead)
        out = np.empty((len(line), ready), np.float32)
        for samples, wet in zip(line, out, strict=True):
            _saturate(samples, self._up, self._down, self._inward, self._outward, wet)
            dry = samples[self._ahead : self._ahead + ready]
            if ready:
                self._peak_in = max(self._peak_in, largest_magnitude(dry))
                self._peak_out = max(self._peak_out, largest_magnitude(wet))
            _mix_in(dry, wet, self._mix, self._gain)
        self._line = line[:, ready:].copy()
        return out

    def finish(self) -> Block:
        """Give the samples held back."""
        return self.push(np.zeros((len(self._line), self._ahead), np.float32))

    def report(self) -> dict[str, Any]:
        """How far the highest peak was rounded, and the gain that brought the level back."""
        rounded = factor_to_db(self._peak_in / self._peak_out) if self._peak_out > 0.0 else 0.0
        return {"max_reduction_db": max(0.0, rounded), "makeup_db": self._makeup_db}
