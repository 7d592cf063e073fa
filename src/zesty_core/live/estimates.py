"""What holds of a whole recording, estimated from how a passage of it has changed."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from zesty_core.foundation.signal import Block
from zesty_core.foundation.units import level_or_none, power_to_db
from zesty_core.measures.report import Levels, Measures
from zesty_core.measures.spectrum import Spectrum
from zesty_core.steps.base import Facts, Step

_NEARLY_NOTHING = 1e-20


def moved(whole: float | None, before: float | None, now: float | None) -> float | None:
    """A level of the whole, moved as the passage's has been; unmoved where that is unknown."""
    if whole is None or before is None or now is None:
        return whole
    return whole + now - before


def moved_spectrum(
    whole: Spectrum | None, before: Spectrum | None, now: Spectrum | None
) -> Spectrum | None:
    """A spectrum of the whole, changed as the passage's has been."""
    if whole is None or before is None or now is None:
        return whole
    change = now.power / np.maximum(before.power, _NEARLY_NOTHING)
    return Spectrum(whole.bin_hz, whole.power * change)


def tone_level(tone: Block | None) -> float | None:
    """Level of a stretch of room tone without its DC offset, in dBFS."""
    if tone is None or tone.shape[1] == 0:
        return None
    return level_or_none(power_to_db(float(tone.var(axis=1, dtype=np.float64).mean())))


@dataclass(frozen=True)
class Apart:
    """By how much the whole has moved more than the passage, in dB: what a passage cannot tell."""

    level_db: float = 0.0
    peak_db: float = 0.0

    def passed(self, step: Step, facts: Facts, before: Measures, after: Measures) -> Apart:
        """With a ``step`` that took the passage from ``before`` to ``after``."""
        whole = step.whole_moved_db(facts)
        if whole is None:
            return self
        level_db = moved(0.0, before.voice_level_dbfs, after.voice_level_dbfs) or 0.0
        peak_db = moved(0.0, before.true_peak_dbtp, after.true_peak_dbtp) or 0.0
        return Apart(self.level_db + whole[0] - level_db, self.peak_db + whole[1] - peak_db)

    def of(self, name: str) -> float:
        """For the measure of this name."""
        return self.peak_db if "peak" in name else self.level_db

    def levels(self, levels: Levels) -> Levels:
        """Estimated levels with it."""
        return replace(
            levels,
            true_peak_dbtp=moved(levels.true_peak_dbtp, 0.0, self.peak_db),
            voice_level_dbfs=moved(levels.voice_level_dbfs, 0.0, self.level_db),
        )


def corrected(facts: Any, settled: Any, guessed: Any, name: str = "") -> Any:
    """``facts`` moved by ``settled`` minus ``guessed`` wherever a name says decibels."""
    if isinstance(facts, dict) and isinstance(settled, dict) and isinstance(guessed, dict):
        return {k: corrected(v, settled.get(k), guessed.get(k), k) for k, v in facts.items()}
    if isinstance(facts, list) and isinstance(settled, list) and isinstance(guessed, list):
        if not len(facts) == len(settled) == len(guessed):
            return facts
        pairs = zip(facts, settled, guessed, strict=True)
        return [corrected(f, k, g, name) for f, k, g in pairs]
    numbers = all(isinstance(v, float) for v in (facts, settled, guessed))
    return facts + settled - guessed if numbers and name.endswith(("_db", "_dbfs")) else facts
