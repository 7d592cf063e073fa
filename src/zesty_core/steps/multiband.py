"""Multiband compressor: a compressor of its own for low, middle and high.

Linkwitz-Riley crossovers that add up flat (``dsp.crossover``), then the compressor of
``steps.compressor`` in each band. Where a band follows the voice, its threshold counts from the
voice's own level within the band.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from zesty_core.dsp.control_rate import CONTROL_SAMPLES
from zesty_core.dsp.crossover import Crossover
from zesty_core.foundation.errors import BadSetting
from zesty_core.foundation.processor import Processor
from zesty_core.foundation.settings import numbers, records
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.measures.report import Measures
from zesty_core.measures.spectrum import level_between
from zesty_core.steps.base import (
    Facts,
    GainProcessor,
    Guide,
    Step,
    StepInput,
    process_passage,
)
from zesty_core.steps.compression import MOST_MAKEUP_DB, NO_MAKEUP, Compression
from zesty_core.steps.pictures import (
    CURVE_DBFS,
    PicturedPassage,
    histogram,
    rounded,
    work_over_time,
)
from zesty_core.steps.step_advice import Trait
from zesty_core.steps.voice_reference import NO_VOICE, VOICE_PARTS, band_reference_db

#: A crossover above this share of the rate splits nothing off.
_HIGHEST_SHARE = 0.45


def _band(threshold_db: float, ratio: float, **more: Any) -> dict[str, Any]:
    """A band of a starter: it follows the voice and leaves alone what is quiet."""
    follows = {"follow_voice": True, "quiet_guard_db": -24.0, "makeup_db": 0.0}
    return {**follows, "threshold_db": threshold_db, "ratio": ratio, **more}


@dataclass(frozen=True, kw_only=True)
class Multiband(Step):
    """Evens low, middle and high each by itself."""

    type = "multiband"
    label = "Multiband compressor"
    summary = "evens low, middle and high apart"
    guide = Guide(
        "Evens low, middle and high each by itself: a voice that booms when it comes close, or "
        "sharpens when it gets loud.",
        ("Crossovers at 200 Hz and 3 kHz, 2:1 in each band, 2 to 4 dB.",),
        "It changes tone with level. Where one EQ does the job, use that.",
    )
    traits = frozenset({Trait.MOVES_NOISE, Trait.RAISES_PEAKS})
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "Even tone": {
            "crossovers_hz": [200.0, 3000.0],
            "bands": [_band(-4.0, 2.0), _band(-2.0, 1.5), _band(-2.0, 2.0, attack_ms=2.0)],
        },
        "Hold the boom": {
            "crossovers_hz": [180.0, 3000.0],
            "bands": [_band(-6.0, 4.0), _band(6.0, 1.0), _band(6.0, 1.0)],
        },
        "Dense, for a video": {
            "crossovers_hz": [200.0, 3000.0],
            "bands": [_band(-8.0, 3.0), _band(-7.0, 3.0), _band(-6.0, 3.0, attack_ms=2.0)],
        },
    }  # fmt: skip
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
    def state_decay_s(self) -> float:
        """That of its slowest band, and of the crossover."""
        return 0.1 + max(band.state_decay_s for band in self.bands)

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

    def _references_db(self, step_input: StepInput) -> list[float] | None:
        edges = self._edges_hz(step_input.info.sample_rate_hz)
        levels: list[float] = []
        for band, low, high in zip(self.bands, edges[:-1], edges[1:], strict=False):
            level = band_reference_db(step_input, low, high) if band.follow_voice else 0.0
            if level is None:
                return None
            levels.append(level)
        return levels

    @property
    def wants_trial(self) -> bool:
        """For an automatic make-up."""
        return any(b.makeup_db == "auto" for b in self.bands)

    def trial(self, step_input: StepInput) -> Processor | None:
        """Run without make-up, to see what it takes from each band."""
        references = self._references_db(step_input)
        voiced = step_input.measures and step_input.measures.voice_level_dbfs is not None
        if not self.wants_trial or references is None or not voiced:
            return None
        bands = [{"reference_db": level, "makeup_db": 0.0} for level in references]
        return self.start(step_input.info, {"bands": bands})

    def facts(self, step_input: StepInput) -> Facts:
        """Level the thresholds count from and make-up gain, per band."""
        references = self._references_db(step_input)
        if references is None:
            return NO_VOICE
        lost = self._lost_db(step_input, len(references))
        makeups = [
            min(max(lost[i], 0.0), MOST_MAKEUP_DB) if isinstance(b.makeup_db, str) else b.makeup_db
            for i, b in enumerate(self.bands[: len(references)])
        ]
        pairs = zip(references, makeups, strict=True)
        return {"bands": [{"reference_db": level, "makeup_db": gain} for level, gain in pairs]}

    def _lost_db(self, step_input: StepInput, bands: int) -> list[float]:
        edges = self._edges_hz(step_input.info.sample_rate_hz)
        before, after = (
            _band_levels(step_input.measures, edges),
            _band_levels(step_input.trial, edges),
        )
        if before is None or after is None:
            return [0.0] * bands
        changes = zip(before, after, strict=True)
        return [b - a if np.isfinite(b) and np.isfinite(a) else 0.0 for b, a in changes]

    def start(self, info: SignalInfo, facts: Facts) -> MultibandProcessor | GainProcessor:
        """New running state."""
        if facts.get("idle"):
            return GainProcessor.idle(info, facts["note"])
        return MultibandProcessor(self, info, facts["bands"])

    def frame_samples(self, info: SignalInfo) -> int:
        """Decisions fall on every so many samples."""
        return CONTROL_SAMPLES

    def without_makeup(self, passage: PicturedPassage) -> Block:
        """What came out without the make-up of any band."""
        facts = passage.facts
        if not any(band.get("makeup_db") for band in facts.get("bands", ())):
            return passage.after
        return process_passage(
            self, passage, facts | {"bands": [band | NO_MAKEUP for band in facts["bands"]]}
        )

    def work(self, passage: PicturedPassage) -> list[list[float | None]]:
        """Change of level in each band."""
        if passage.facts.get("idle"):
            return super().work(passage)
        # The crossover turns the phase; comparing with a crossed-over input leaves the gains alone.
        before = np.asarray(sum(self._bands_of(passage.before, passage.sample_rate_hz)))
        pairs = zip(
            self._bands_of(before, passage.sample_rate_hz),
            self._bands_of(self.without_makeup(passage), passage.sample_rate_hz),
            strict=True,
        )
        return [work_over_time(a, b) for a, b in pairs]

    def picture(self, passage: PicturedPassage) -> dict[str, Any]:
        """Levels and curve of each band besides its work."""
        picture = super().picture(passage)
        if passage.facts.get("idle"):
            return picture
        rate = passage.sample_rate_hz
        before = np.asarray(sum(self._bands_of(passage.before, rate)))
        curves = [
            band.curve_dbfs(fact, CURVE_DBFS)
            for band, fact in zip(self.bands, passage.facts["bands"], strict=False)
        ]
        return picture | {
            "band_levels": [histogram(band, rate) for band in self._bands_of(before, rate)],
            "curves": [
                {"in_dbfs": rounded(CURVE_DBFS), "out_dbfs": rounded(curve)}
                for curve in curves
                if curve is not None
            ],
        }

    def _bands_of(self, sound: Block, rate: int) -> list[Block]:
        edges = [f for f in self.crossovers_hz if f < _HIGHEST_SHARE * rate]
        return Crossover(edges, rate, len(sound))(sound)

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
