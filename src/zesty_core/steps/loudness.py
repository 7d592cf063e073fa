"""Final level: a gain to a loudness, an average or a voice level, held under a ceiling.

The gain is cut short where the true peak would pass the ceiling; the report says what is missing.
Measures: ITU-R BS.1770-5 and EBU R 128 (lufs), plain RMS, ITU-T P.56 (voice).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from zesty_core.foundation.settings import choice, number
from zesty_core.foundation.signal import SignalInfo
from zesty_core.foundation.units import db_to_factor
from zesty_core.measures.full_meter import FullMeter
from zesty_core.steps.base import Facts, GainProcessor, Guide, Step, StepInput
from zesty_core.steps.step_advice import Trait

_FIELDS = {"lufs": "integrated_lufs", "rms": "rms_dbfs", "voice": "voice_level_dbfs"}
_UNITS = {"lufs": "LUFS", "rms": "dBFS RMS", "voice": "dBFS voice level"}


@dataclass(frozen=True, kw_only=True)
class Loudness(Step):
    """Brings the whole recording to the level a delivery asks for."""

    type = "loudness"
    label = "Loudness"
    summary = "sets the final level"
    guide = Guide(
        "Brings the finished recording to the level a delivery asks for.",
        (
            "Podcasts -16 LUFS in stereo or -19 in mono; broadcast -23 LUFS.",
            "Narration: -20 dBFS RMS under a ceiling of -3 dBTP.",
        ),
        "It is one gain for the whole. Where the ceiling stops it, it says by how much it missed: "
        "put a limiter before it.",
    )
    traits = frozenset({Trait.CALIBRATES})
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "Podcast, stereo": {"target": -16.0, "ceiling_dbtp": -1.0},
        "Podcast, mono": {"target": -19.0, "ceiling_dbtp": -1.0},
        "Audiobook": {"measure": "rms", "target": -20.0, "ceiling_dbtp": -3.0},
    }  # fmt: skip
    work_ns = 1.0

    measure: str = choice(
        "Measured as",
        default="lufs",
        choices=("lufs", "rms", "voice"),
        words={"lufs": "Loudness (LUFS)", "rms": "Average (RMS)", "voice": "Voice level"},
        help="Loudness (LUFS), plain average (RMS), or the level of the voice while it speaks.",
    )
    target: float = number(
        "Target",
        unit="dB",
        unit_by=("measure", {"lufs": "LUFS", "rms": "dBFS", "voice": "dBFS"}),
        default=-19.0,
        low=-60,
        high=0,
        usual=(-23, -16),
        help="LUFS or dBFS, by the measure chosen.",
    )
    ceiling_dbtp: float = number(
        "Ceiling",
        unit="dBTP",
        default=-1.0,
        low=-30,
        high=0,
        usual=(-3, -1),
        help="True peak that the gain never passes.",
    )

    @property
    def measures_wanted(self) -> frozenset[str]:
        """Everything: what comes out is then known without measuring it again."""
        return FullMeter.OF_RESULTS

    def facts(self, step_input: StepInput) -> Facts:
        """Gain, and what is missing to the target."""
        measures = step_input.measures
        assert measures is not None
        level: float | None = getattr(measures, _FIELDS[self.measure])
        if level is None or measures.true_peak_dbtp is None:
            reason = measures.reasons.get(_FIELDS[self.measure], "silence")
            return {"gain_db": 0.0, "missed_by_db": 0.0, "note": f"left as it is: {reason}"}
        wanted = self.target - level
        gain = min(wanted, self.ceiling_dbtp - measures.true_peak_dbtp)
        missed = wanted - gain
        note = (
            f"the ceiling of {self.ceiling_dbtp:g} dBTP leaves it {missed:.1f} dB under the target"
            if missed > 0.05
            else None
        )
        return {"gain_db": gain, "missed_by_db": missed, "note": note}

    def start(self, info: SignalInfo, facts: Facts) -> GainProcessor:
        """New running state."""
        report = {k: v for k, v in facts.items() if v is not None}
        factors = [db_to_factor(facts["gain_db"])] * info.channels
        return GainProcessor(factors, [0.0] * info.channels, report)

    def plain_gain_db(self, facts: Facts) -> float | None:
        """The gain itself."""
        return float(facts["gain_db"])

    @property
    def peak_ceiling_dbtp(self) -> float:
        """Ceiling that its gain keeps to."""
        return self.ceiling_dbtp

    def _sentence(self) -> str:
        """In plain words."""
        return (
            f"Brings the whole to {self.target:g} {_UNITS[self.measure]}, "
            f"with no peak above {self.ceiling_dbtp:g} dBTP."
        )
