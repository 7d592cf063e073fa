"""Calibration: remove DC offset, then bring the peak to a fixed value.

Exact within 0.01 dB. Silence is left untouched.
"""

from __future__ import annotations

from dataclasses import dataclass

from zesty_core.foundation.settings import choice, number, switch
from zesty_core.foundation.signal import SignalInfo
from zesty_core.foundation.units import SILENCE_DB, db_to_factor, factor_to_db
from zesty_core.steps.base import Facts, GainProcessor, Guide, Step, StepInput
from zesty_core.steps.step_advice import Trait

#: Taken away, an offset up to this size (-40 dBFS) leaves no trace in any measure but the peaks.
_SMALL_OFFSET = 0.01


@dataclass(frozen=True, kw_only=True)
class Normalize(Step):
    """Brings the highest peak to a fixed value, so that later thresholds mean the same."""

    type = "normalize"
    label = "Normalize"
    summary = "brings the peak to a fixed value"
    guide = Guide(
        "Brings every take to the same peak before anything with a threshold sees it, and centres a "
        "waveform that rides off the middle line. Put it first.",
        ("Peak -3 dB, counted as samples, DC offset removed.",),
        "It follows the single highest peak: one bump of the table decides. Thresholds that follow "
        "the voice do not mind.",
    )
    traits = frozenset({Trait.CALIBRATES})
    work_ns = 1.0

    target_db: float = number(
        "Peak",
        unit="dB",
        default=-3.0,
        low=-60,
        high=0,
        usual=(-6, -1),
        help="Where the highest peak lands.",
    )
    peak: str = choice(
        "Counted as",
        default="sample",
        choices=("sample", "true"),
        words={"sample": "Sample peak", "true": "True peak"},
        help="Highest sample, or true peak, which also looks between the samples.",
    )
    remove_dc: bool = switch(
        "Remove DC offset", default=True, help="Centres the waveform before the peak is taken."
    )
    link_channels: bool = switch(
        "Same gain on both channels", default=True, help="Keeps the stereo image."
    )

    @property
    def measures_wanted(self) -> frozenset[str]:
        """The peak and the DC offset of the whole input."""
        return frozenset({"peak", "noise"})

    def facts(self, step_input: StepInput) -> Facts:
        """Gain and offset per channel."""
        measures = step_input.measures
        assert measures is not None
        offsets = measures.dc_offset if self.remove_dc else (0.0,) * step_input.info.channels
        extremes = measures.true_extremes if self.peak == "true" else measures.sample_extremes
        peaks = [
            max(high - dc, dc - low) for (low, high), dc in zip(extremes, offsets, strict=True)
        ]
        if self.link_channels:
            peaks = [max(peaks)] * len(peaks)
        peaks_db = [factor_to_db(p) for p in peaks]
        gains = [self.target_db - p if p > SILENCE_DB else 0.0 for p in peaks_db]
        silent = max(peaks_db) <= SILENCE_DB
        return {
            "gain_db": gains,
            "offset": [0.0] * len(gains) if silent else list(offsets),
            "note": "silence was left as it is" if silent else None,
        }

    def start(self, info: SignalInfo, facts: Facts) -> GainProcessor:
        """New running state."""
        gains, offsets = facts["gain_db"], facts["offset"]
        report = {"gain_db": gains[0], "gains_db": gains, "dc_removed": offsets}
        if facts.get("note"):
            report["note"] = facts["note"]
        return GainProcessor([db_to_factor(g) for g in gains], offsets, report)

    def plain_gain_db(self, facts: Facts) -> float | None:
        """One gain for all channels, after a small offset at most."""
        gains = facts["gain_db"]
        same = max(gains) - min(gains) < 1e-9
        small = all(abs(offset) <= _SMALL_OFFSET for offset in facts["offset"])
        return gains[0] if same and small else None

    def plain_offsets(self, facts: Facts) -> tuple[float, ...]:
        """The offsets removed."""
        return tuple(facts["offset"])

    def _sentence(self) -> str:
        """In plain words."""
        kind = "true peak" if self.peak == "true" else "highest sample"
        centred = "Removes DC offset and brings" if self.remove_dc else "Brings"
        return f"{centred} the {kind} to {self.target_db:g} dB."
