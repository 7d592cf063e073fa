"""Equaliser: any number of bands by the Audio EQ Cookbook (W3C Note 2021), in series.

High-pass and low-pass are Butterworth at 6 to 24 dB per octave. Bands at or above half the sampling
rate can do nothing there and are left out; the report names them.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp import biquad
from zesty_core.dsp.cascade import Cascade
from zesty_core.foundation.settings import Declared, choice, number, records, switch
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.foundation.units import db_to_factor
from zesty_core.measures.resonances import resonances
from zesty_core.measures.spectrum import SpectrumMeter
from zesty_core.steps.base import Facts, Guide, Step
from zesty_core.steps.pictures import PicturedPassage, rounded
from zesty_core.steps.step_advice import ToneChange, Trait

_PASSES = ("high_pass", "low_pass")
_WITH_GAIN = ("low_shelf", "high_shelf", "bell")
_HIGHEST_SHARE = 0.49  # of the sampling rate


@dataclass(frozen=True, kw_only=True)
class Band(Declared):
    """One band of the equaliser."""

    type: str = choice(
        "Kind",
        default="bell",
        choices=(*_PASSES, *_WITH_GAIN, "notch"),
        help="What the band does around its frequency.",
    )
    freq_hz: float = number(
        "Frequency",
        unit="Hz",
        default=1000.0,
        low=10,
        high=96_000,
        scale="log",
        increment=1,
        help="Corner or middle of the band.",
    )
    gain_db: float = number(
        "Gain",
        unit="dB",
        default=0.0,
        low=-30,
        high=30,
        usual=(-6, 3),
        matters_for=_WITH_GAIN,
        help="Boost or cut.",
    )
    q: float = number(
        "Q",
        default=0.7071067811865476,
        low=0.05,
        high=60,
        usual=(0.5, 5),
        increment=0.05,
        scale="log",
        matters_for=(*_WITH_GAIN, "notch"),
        help="Narrowness: the higher, the narrower.",
    )
    slope_db_oct: int = choice(
        "Slope",
        unit="dB/oct",
        default=12,
        choices=(6, 12, 18, 24),
        matters_for=_PASSES,
        help="How steeply it rolls off.",
    )
    enabled: bool = switch("On", default=True, help="A band that is off does nothing.")

    @property
    def is_neutral(self) -> bool:
        """Whether the band changes nothing."""
        return not self.enabled or (self.type in _WITH_GAIN and self.gain_db == 0.0)

    def works_at(self, rate: int) -> bool:
        """Whether its frequency exists at this sampling rate."""
        return self.freq_hz < _HIGHEST_SHARE * rate

    def sections(self, rate: int) -> list[biquad.Sections]:
        """Filter sections at this rate."""
        match self.type:
            case "high_pass" | "low_pass":
                make = biquad.high_pass if self.type == "high_pass" else biquad.low_pass
                qs = biquad.BUTTERWORTH_Q[self.slope_db_oct]
                return [make(self.freq_hz, q, rate) for q in qs]
            case "low_shelf":
                return [biquad.low_shelf(self.freq_hz, self.q, self.gain_db, rate)]
            case "high_shelf":
                return [biquad.high_shelf(self.freq_hz, self.q, self.gain_db, rate)]
            case "notch":
                return [biquad.notch(self.freq_hz, self.q, rate)]
            case _:
                return [biquad.bell(self.freq_hz, self.q, self.gain_db, rate)]

    def phrase(self) -> str:
        """What the band does, for the step's sentence."""
        at = f"{self.freq_hz / 1000:g} kHz" if self.freq_hz >= 1000 else f"{self.freq_hz:g} Hz"
        match self.type:
            case "high_pass":
                return f"rolls off below {at}"
            case "low_pass":
                return f"rolls off above {at}"
            case "notch":
                return f"takes out {at}"
            case "low_shelf":
                return f"{self.gain_db:+g} dB below {at}"
            case "high_shelf":
                return f"{self.gain_db:+g} dB above {at}"
            case _:
                return f"{self.gain_db:+g} dB at {at}"


@dataclass(frozen=True, kw_only=True)
class Eq(Step):
    """Shapes the tone: rumble, mud, warmth, presence, air."""

    type = "eq"
    label = "EQ"
    summary = "shapes the tone"
    guide = Guide(
        "Shapes the tone: rumble out, mud down, presence and air where they are wanted.",
        (
            "High-pass at 80 Hz, 12 or 24 dB per octave.",
            "Mud: -2 to -4 dB at 250 to 500 Hz, Q 1.4. Presence: +1 to +2 dB at 2 to 4 kHz.",
            "Cuts narrow, boosts broad and small.",
        ),
        "A boost into a compressor works against itself; trim makes up for what bands add.",
    )
    traits = frozenset({Trait.RAISES_PEAKS})
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "Clear narration": {
            "bands": [
                {"type": "high_pass", "freq_hz": 80.0},
                {"type": "bell", "freq_hz": 300.0, "gain_db": -2.0, "q": 1.0},
                {"type": "bell", "freq_hz": 3500.0, "gain_db": 2.0, "q": 0.8},
            ]
        },
        "Less boom": {
            "bands": [
                {"type": "high_pass", "freq_hz": 90.0},
                {"type": "low_shelf", "freq_hz": 180.0, "gain_db": -3.0},
            ]
        },
        "Warm and near": {
            "bands": [
                {"type": "high_pass", "freq_hz": 70.0},
                {"type": "low_shelf", "freq_hz": 160.0, "gain_db": 2.0},
                {"type": "high_shelf", "freq_hz": 9000.0, "gain_db": 1.5},
            ]
        },
    }  # fmt: skip

    bands: tuple[Band, ...] = records(
        "Bands", Band, default=(), most=64, help="Bands work one after the other."
    )
    trim_db: float = number(
        "Trim",
        unit="dB",
        default=0.0,
        low=-30,
        high=30,
        usual=(-3, 3),
        help="Gain after all bands, to make up for what they add or take.",
    )

    @property
    def is_neutral(self) -> bool:
        """No band at work and no trim."""
        return self.trim_db == 0.0 and all(b.is_neutral for b in self.bands)

    @property
    def state_decay_s(self) -> float:
        """The longest ring of a band: its amplitude falls by 60 dB in 2.2 Q / f."""
        rings = [2.2 * max(b.q, 1.0) / b.freq_hz for b in self.bands if not b.is_neutral]
        return min(4.0, 2.0 * max(rings, default=0.0))

    def start(self, info: SignalInfo, facts: Facts) -> EqProcessor:
        """New running state."""
        return EqProcessor(self, info)

    def sections(self, rate: int) -> biquad.Sections:
        """All sections at work, trim included in the first."""
        rows: list[biquad.Sections] = [
            row
            for band in self.bands
            if not band.is_neutral and band.works_at(rate)
            for row in band.sections(rate)
        ]
        sections = np.array(rows) if rows else np.array([[1.0, 0.0, 0.0, 0.0, 0.0]])
        sections[0, :3] *= db_to_factor(self.trim_db)
        return sections

    def response_db(self, freq_hz: NDArray[np.float64], rate: int) -> NDArray[np.float64]:
        """Magnitude response in dB."""
        return biquad.response_db(self.sections(rate), freq_hz, rate)

    @classmethod
    def warm_up_cases(cls) -> tuple[Eq, ...]:
        """One with a band."""
        return (cls(bands=(Band(type="high_pass", freq_hz=80.0),)),)

    @property
    def tone_changes(self) -> tuple[ToneChange, ...]:
        """Its bands that are on."""
        return tuple(
            ToneChange(band.freq_hz, band.gain_db, band.type in ("bell", "notch"))
            for band in self.bands
            if band.enabled
        )

    def picture(self, passage: PicturedPassage) -> dict[str, Any]:
        """The curve, and what stands out of the sound that arrives."""
        rate = passage.sample_rate_hz
        return super().picture(passage) | {
            "resonances": _resonances(passage.before, rate),
            "response_db": rounded(self.response_db(passage.freqs_hz, rate)),
        }

    def _sentence(self) -> str:
        """In plain words."""
        phrases = [b.phrase() for b in self.bands if not b.is_neutral]
        if not phrases:
            return "Leaves the tone alone."
        text = ", ".join(phrases)
        return f"{text[0].upper()}{text[1:]}."


def _resonances(sound: Block, rate: int) -> list[dict[str, float]]:
    meter = SpectrumMeter(SignalInfo(rate, *sound.shape))
    meter.push(sound)
    spectrum = meter.finish()
    return [one.as_json() for one in resonances(spectrum)] if spectrum else []


class EqProcessor:
    """The cascade on one signal."""

    def __init__(self, step: Eq, info: SignalInfo) -> None:
        rate = info.sample_rate_hz
        self._cascade = Cascade(step.sections(rate), info.channels)
        self._channels = info.channels
        self._left_out = [
            b.freq_hz for b in step.bands if not b.is_neutral and not b.works_at(rate)
        ]

    def push(self, block: Block) -> Block:
        """Filter a block."""
        return self._cascade(block)

    def finish(self) -> Block:
        """Nothing is held back."""
        return np.zeros((self._channels, 0), np.float32)

    def report(self) -> dict[str, Any]:
        """Bands that cannot exist at this rate."""
        if not self._left_out:
            return {}
        return {
            "left_out_hz": self._left_out,
            "note": "bands above half the sampling rate were left out",
        }
