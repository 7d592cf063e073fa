"""House voice: few plain EQ bands that bring this voice's tone to that of a show.

The bands are found for each recording from its own average spectrum; nothing is boosted where the room
lies within 10 dB of the voice.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from zesty_core.dsp.tone_fit import FittedBand, fit_bands, response_db
from zesty_core.foundation.settings import Declared, number, records
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.measures.house_voice import TONE_HZ, VoiceTone, voice_tone
from zesty_core.measures.spectrum import Spectrum, SpectrumMeter
from zesty_core.steps.base import Facts, GainProcessor, Guide, Step, StepInput
from zesty_core.steps.eq import Band, Eq, EqProcessor
from zesty_core.steps.step_advice import Trait

_MOST_BANDS, _FEWEST_POINTS = 6, 3
_RING_S = 0.2


@dataclass(frozen=True, kw_only=True)
class TonePoint(Declared):
    """Level of the house voice at one frequency."""

    freq_hz: float = number(
        "Frequency", unit="Hz", default=1000.0, low=20, high=20_000, scale="log", increment=1,
        help="Middle of a third octave.",
    )  # fmt: skip
    level_db: float = number(
        "Level", unit="dB", default=0.0, low=-100, high=100, help="Relative to the other bands."
    )


@dataclass(frozen=True, kw_only=True)
class HouseVoiceStep(Step):
    """Brings the tone of a voice to that of a house voice."""

    type = "house_voice"
    label = "House voice"
    summary = "the tone a show is used to"
    guide = Guide(
        "Takes at most six plain EQ bands of at most 6 dB that bring this voice's tone to that of "
        "finished recordings, so that pick-ups and new microphones fit the rest. Each recording gets "
        "its own bands, in batches too.",
        (
            "Strength 100 % for the same voice through another microphone.",
            "50 % for another voice, which should stay itself.",
        ),
        "It evens microphones and rooms, not people. After noise reduction more bands of the voice "
        "count; where the room lies within 10 dB of the voice it boosts nothing.",
    )
    traits = frozenset({Trait.RAISES_PEAKS})
    work_ns = 6.0

    strength_percent: float = number(
        "Strength",
        unit="%",
        default=100.0,
        low=0,
        high=100,
        usual=(50, 100),
        increment=5,
        help="How much of the difference is taken away.",
    )
    tone: tuple[TonePoint, ...] = records(
        "Tone",
        TonePoint,
        default=(),
        most=64,
        help="Of the house voice, third octave by third octave.",
    )

    @property
    def is_neutral(self) -> bool:
        """No house voice, or nothing of it."""
        return self.strength_percent == 0.0 or len(self.tone) < _FEWEST_POINTS

    @property
    def state_decay_s(self) -> float:
        """The longest ring of its bands."""
        return _RING_S

    @property
    def measures_wanted(self) -> frozenset[str]:
        """The average spectrum, and how much of the time somebody speaks."""
        return frozenset({"speech", "noise", "spectrum"})

    @property
    def needs_room_tone(self) -> bool:
        """The room's share of the spectrum is taken off."""
        return True

    def facts(self, step_input: StepInput) -> Facts:
        """The bands, and the mean difference of tone before and after."""
        tone = _tone(step_input)
        if tone is None:
            return {"note": "left as it is: too little of the voice stands over the room"}
        points = sorted((point.freq_hz, point.level_db) for point in self.tone)
        freqs, levels = np.array(points).T
        wanted_db = np.interp(np.log(TONE_HZ), np.log(freqs), levels)
        gap_db = tone.gap_to(wanted_db.tolist()) * self.strength_percent / 100.0
        freqs_hz, weights = np.array(TONE_HZ), tone.reliable.astype(float)
        bands = fit_bands(freqs_hz, gap_db, weights, tone.clear, most_bands=_MOST_BANDS)
        left_db = gap_db - response_db(bands, freqs_hz)
        left_db -= np.average(left_db, weights=weights)
        return {
            "bands": [[b.kind, b.freq_hz, b.q, b.gain_db] for b in bands],
            "apart_before_db": float(np.average(np.abs(gap_db), weights=weights)),
            "apart_after_db": float(np.average(np.abs(left_db), weights=weights)),
        }

    def start(self, info: SignalInfo, facts: Facts) -> HouseVoiceProcessor | GainProcessor:
        """New running state."""
        if "note" in facts:
            return GainProcessor.idle(info, facts["note"])
        return HouseVoiceProcessor(info, facts)

    def _sentence(self) -> str:
        """In plain words."""
        if self.is_neutral:
            return "Leaves the tone as it is: no house voice is chosen."
        return (
            f"Takes {self.strength_percent:g} % of the difference to the house voice's tone away, "
            "with at most six EQ bands."
        )


def _tone(step_input: StepInput) -> VoiceTone | None:
    measures = step_input.measures
    if measures is None or measures.spectrum is None or measures.voice_level_dbfs is None:
        return None
    tone = step_input.room_tone
    noise = _spectrum_of(tone, step_input.info) if tone is not None else None
    return voice_tone(measures.spectrum, noise, measures.voice_activity)


def _spectrum_of(sound: Block, info: SignalInfo) -> Spectrum | None:
    meter = SpectrumMeter(SignalInfo(info.sample_rate_hz, *sound.shape))
    meter.push(np.ascontiguousarray(sound))
    return meter.finish()


def _as_eq(facts: Facts) -> Eq:
    fitted = [FittedBand(*row) for row in facts["bands"]]
    return Eq(
        bands=tuple(Band(type=b.kind, freq_hz=b.freq_hz, q=b.q, gain_db=b.gain_db) for b in fitted)
    )


class HouseVoiceProcessor:
    """The bands on one signal."""

    def __init__(self, info: SignalInfo, facts: Facts) -> None:
        self._facts, self._eq = facts, _as_eq(facts)
        self._processor = EqProcessor(self._eq, info)

    def push(self, block: Block) -> Block:
        """Behind the bands."""
        return block if self._eq.is_neutral else self._processor.push(block)

    def finish(self) -> Block:
        """Nothing is held back."""
        return self._processor.finish()

    def report(self) -> dict[str, Any]:
        """The bands in words, and how far the tone was and is from that of the house voice."""
        return {
            "bands": [band.phrase() for band in self._eq.bands],
            "apart_before_db": round(self._facts["apart_before_db"], 2),
            "apart_after_db": round(self._facts["apart_after_db"], 2),
        }
