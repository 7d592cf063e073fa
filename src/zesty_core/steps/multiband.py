"""Multiband compressor: a compressor of its own for low, middle and high.

Linkwitz-Riley crossovers that add up flat (``dsp.crossover``), then the compressor of
``steps.compressor`` in each band. Where a band follows the voice, its threshold counts from the
voice's own level within the band.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from zesty_core.dsp.crossover import Crossover
from zesty_core.errors import BadSetting
from zesty_core.measure.report import Measures
from zesty_core.measure.spectrum import level_between
from zesty_core.settings import numbers, records
from zesty_core.signal import Block, SignalInfo
from zesty_core.steps.base import Facts, GainProcessor, Processor, Step, Survey
from zesty_core.steps.compressor import MOST_MAKEUP_DB, Compression
from zesty_core.steps.voice_reference import NO_VOICE, VOICE_PARTS, band_reference_db

#: A crossover above this share of the rate splits nothing off.
_HIGHEST_SHARE = 0.45


@dataclass(frozen=True, kw_only=True)
class Multiband(Step):
    """Evens low, middle and high each by itself."""

    type = "multiband"
    label = "Multiband compressor"
    summary = "evens low, middle and high apart"
    work_ns = 35.0

    crossovers_hz: tuple[float, ...] = numbers(
        "Crossovers",
        unit="Hz",
        default=(200.0, 3000.0),
        low=40,
        high=18_000,
        most=3,
        increment=10,
        scale="log",
        help="Where one band ends and the next begins: one fewer than there are bands.",
    )
    bands: tuple[Compression, ...] = records(
        "Bands",
        Compression,
        default=(Compression(threshold_db=-24.0, makeup_db=0.0),) * 3,
        most=4,
        help="A compressor for each band, from low to high.",
    )

    def __post_init__(self) -> None:
        super().__post_init__()
        wanted = len(self.crossovers_hz) + 1
        if len(self.bands) != wanted:
            allowed = f"must hold {wanted} bands for {wanted - 1} crossovers"
            raise BadSetting("bands", len(self.bands), allowed)

    @property
    def is_neutral(self) -> bool:
        """No band at work."""
        return all(band.is_neutral for band in self.bands)

    @property
    def memory_s(self) -> float:
        """That of its slowest band, and of the crossover."""
        return 0.1 + max(band.memory_s for band in self.bands)

    @property
    def measures_wanted(self) -> frozenset[str]:
        """The voice's spectrum, where a band follows it or brings its level back."""
        wanted = self.wants_trial or any(b.follow_voice for b in self.bands)
        return VOICE_PARTS | {"spectrum"} if wanted else frozenset()

    @property
    def trial_parts(self) -> frozenset[str]:
        """What each band lost shows in the spectrum."""
        return VOICE_PARTS | {"spectrum"}

    def _edges_hz(self, rate: int) -> list[float]:
        """Band edges that exist at this rate."""
        inner = [f for f in self.crossovers_hz if f < _HIGHEST_SHARE * rate]
        return [0.0, *inner, rate / 2]

    def _references_db(self, survey: Survey) -> list[float] | None:
        edges = self._edges_hz(survey.info.sample_rate_hz)
        levels: list[float] = []
        for band, low, high in zip(self.bands, edges[:-1], edges[1:], strict=False):
            level = band_reference_db(survey, low, high) if band.follow_voice else 0.0
            if level is None:
                return None
            levels.append(level)
        return levels

    @property
    def wants_trial(self) -> bool:
        """For an automatic make-up."""
        return any(b.makeup_db == "auto" for b in self.bands)

    def trial(self, survey: Survey) -> Processor | None:
        """Run without make-up, to see what it takes from each band."""
        references = self._references_db(survey)
        voiced = survey.measures and survey.measures.voice_level_dbfs is not None
        if not self.wants_trial or references is None or not voiced:
            return None
        bands = [{"reference_db": level, "makeup_db": 0.0} for level in references]
        return self.start(survey.info, {"bands": bands})

    def facts(self, survey: Survey) -> Facts:
        """Level the thresholds count from and make-up gain, per band."""
        references = self._references_db(survey)
        if references is None:
            return NO_VOICE
        lost = self._lost_db(survey, len(references))
        makeups = [
            min(max(lost[i], 0.0), MOST_MAKEUP_DB) if isinstance(b.makeup_db, str) else b.makeup_db
            for i, b in enumerate(self.bands[: len(references)])
        ]
        pairs = zip(references, makeups, strict=True)
        return {"bands": [{"reference_db": level, "makeup_db": gain} for level, gain in pairs]}

    def _lost_db(self, survey: Survey, bands: int) -> list[float]:
        edges = self._edges_hz(survey.info.sample_rate_hz)
        before, after = _band_levels(survey.measures, edges), _band_levels(survey.trial, edges)
        if before is None or after is None:
            return [0.0] * bands
        changes = zip(before, after, strict=True)
        return [b - a if np.isfinite(b) and np.isfinite(a) else 0.0 for b, a in changes]

    def start(self, info: SignalInfo, facts: Facts) -> MultibandProcessor | GainProcessor:
        """New running state."""
        if facts.get("idle"):
            return GainProcessor.idle(info, facts["note"])
        return MultibandProcessor(self, info, facts["bands"])

    def _sentence(self) -> str:
        """In plain words."""
        edges = " and ".join(
            f"{f / 1000:g} kHz" if f >= 1000 else f"{f:g} Hz" for f in self.crossovers_hz
        )
        ratios = ", ".join(f"{b.ratio:g}:1" for b in self.bands)
        return (
            f"Splits the voice at {edges} and evens each band by itself, from low to high {ratios}."
        )


def _band_levels(measures: Measures | None, edges_hz: list[float]) -> list[float] | None:
    return level_between(measures.spectrum, edges_hz) if measures and measures.spectrum else None


class MultibandProcessor:
    """Crossover and compressors on one signal."""

    def __init__(self, step: Multiband, info: SignalInfo, facts: list[Facts]) -> None:
        rate = info.sample_rate_hz
        inner = [f for f in step.crossovers_hz if f < _HIGHEST_SHARE * rate]
        self._left_out = [f for f in step.crossovers_hz if f not in inner]
        self._split = Crossover(inner, rate, info.channels)
        self._bands = [
            band.start(info, fact) for band, fact in zip(step.bands, facts, strict=False)
        ]
        self._channels = info.channels

    def push(self, block: Block) -> Block:
        """Compress a block."""
        out = np.zeros_like(block)
        for processor, band in zip(self._bands, self._split(block), strict=True):
            out += processor.push(band)
        return out

    def finish(self) -> Block:
        """Nothing is held back."""
        return np.zeros((self._channels, 0), np.float32)

    def report(self) -> dict[str, Any]:
        """What each band did, and the band that worked hardest."""
        bands = [processor.report() for processor in self._bands]
        report: dict[str, Any] = {
            name: max(band[name] for band in bands)
            for name in ("typical_reduction_db", "max_reduction_db", "active_share")
        }
        report["bands"] = bands
        if self._left_out:
            report["note"] = "crossovers above half the sampling rate were left out"
        return report
