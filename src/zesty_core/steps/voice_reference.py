"""Thresholds that count from the voice: one recipe fits a quiet and a loud take alike."""

from __future__ import annotations

from collections.abc import Callable

from zesty_core.dsp.biquad import Sections
from zesty_core.foundation.units import level_or_none, power_to_db
from zesty_core.measures.report import LEVEL_PARTS
from zesty_core.measures.spectrum import Spectrum
from zesty_core.steps.base import Facts, StepInput

#: Parts of the measures that tell the voice level.
VOICE_PARTS = LEVEL_PARTS
NO_VOICE: Facts = {"idle": True, "note": "left as it is: no voice to follow"}


def voice_reference_db(follows: bool, step_input: StepInput) -> float | None:
    """What thresholds are added to: 0 dBFS, or the voice level; None where there is no voice."""
    if not follows:
        return 0.0
    return step_input.measures.voice_level_dbfs if step_input.measures else None


def band_reference_db(step_input: StepInput, low_hz: float, high_hz: float) -> float | None:
    """Level in dBFS of the voice within a band, averaged over its speech; None without voice.

    The average spectrum of the whole, corrected for the share of time without speech.
    """
    return _in_speech_db(step_input, lambda spectrum: spectrum.band_power(low_hz, high_hz))


def heard_reference_db(step_input: StepInput, sections: Sections) -> float | None:
    """As :func:`band_reference_db`, of the voice behind a filter: a detector that lets some of the
    neighbouring bands through counts from what it hears of them."""
    rate = step_input.info.sample_rate_hz
    return _in_speech_db(step_input, lambda spectrum: spectrum.power_behind(sections, rate))


def _in_speech_db(step_input: StepInput, power: Callable[[Spectrum], float]) -> float | None:
    measures = step_input.measures
    if measures is None or measures.spectrum is None or not measures.voice_activity:
        return None
    return level_or_none(power_to_db(power(measures.spectrum) / measures.voice_activity))


def level_words(threshold_db: float, follows: bool) -> str:
    """A threshold in words, for sentences."""
    if not follows:
        return f"{threshold_db:g} dBFS"
    side = "over" if threshold_db >= 0 else "under"
    return f"{abs(threshold_db):g} dB {side} the voice level"
