"""Figures of a signal, and what becomes of them by a plain gain. ``full_meter`` takes them."""

from __future__ import annotations

import dataclasses
from typing import Any

import numpy as np

from zesty_core.foundation.signal import Span
from zesty_core.foundation.units import (
    db_to_factor,
    factor_to_db,
    level_or_none,
    level_without,
)
from zesty_core.measures.balance import Balance
from zesty_core.measures.found_room import FoundRoomTone
from zesty_core.measures.hum import Hum
from zesty_core.measures.noise_floor_shift import NoiseFloorShift
from zesty_core.measures.sides import Sides
from zesty_core.measures.speaker_frames import SpeakerFrames
from zesty_core.measures.spectrum import Spectrum
from zesty_core.measures.speech_events import SpeechEvents

#: What it takes to tell voice level and noise floor.
LEVEL_PARTS = frozenset({"speech", "noise"})

#: All but what is looked for in a recording alone: room tone and digital silence.
RESULT_PARTS = frozenset(
    {"peak", "speech", "loudness", "noise", "clipping", "hum", "spectrum", "speech_events"}
)

#: Measures that move one to one with a gain.
_LEVEL_FIELDS = (
    "sample_peak_dbfs",
    "true_peak_dbtp",
    "rms_dbfs",
    "integrated_lufs",
    "momentary_max_lufs",
    "short_term_max_lufs",
    "voice_level_dbfs",
    "noise_floor_dbfs",
)


@dataclasses.dataclass(frozen=True)
class Measures:
    """Figures of a signal. None means "cannot be determined", with the reason in ``reasons``."""

    duration_s: float
    sample_rate_hz: int
    channels: int
    sample_peak_dbfs: float | None
    true_peak_dbtp: float | None
    rms_dbfs: float | None
    crest_db: float | None
    integrated_lufs: float | None
    momentary_max_lufs: float | None
    short_term_max_lufs: float | None
    loudness_range_lu: float | None
    voice_level_dbfs: float | None
    voice_activity: float | None
    noise_floor_dbfs: float | None
    noise_floor_source: str | None
    noise_floor_span: Span | None
    clearance_db: float | None
    digital_silence_share: float
    dc_offset: tuple[float, ...]
    clipped_runs: int
    clipped_at_s: tuple[float, ...]
    hum: Hum | None
    spectrum: Spectrum | None
    #: Of recordings with a voice.
    balance: Balance | None
    #: Of stereo recordings.
    sides: Sides | None
    speech_events: SpeechEvents | None
    reasons: dict[str, str]
    #: Parts that were measured; the figures of the others are None or empty.
    parts: frozenset[str]
    #: Room tone found without help; None when nothing qualifies.
    found_room_tone: Span | None
    #: All that would serve, the found one first.
    room_tones: tuple[FoundRoomTone, ...]
    #: Where the room is louder for long than elsewhere; None where it stays as it is.
    noise_floor_shift: NoiseFloorShift | None
    #: Lowest and highest value per channel, at samples and between them (for normalize).
    sample_extremes: tuple[tuple[float, float], ...]
    true_extremes: tuple[tuple[float, float], ...]
    #: What tells voices apart; only where it was asked for.
    speaker_frames: SpeakerFrames | None = None

    def as_json(self) -> dict[str, Any]:
        """JSON object with levels rounded to 0.01 dB; no NaN, no infinity."""
        plain = dataclasses.replace(self, spectrum=None, speech_events=None, speaker_frames=None)
        data = dataclasses.asdict(plain)
        for internal in ("parts", "sample_extremes", "true_extremes", "speaker_frames"):
            del data[internal]
        rounded = {k: round(v, 2) if isinstance(v, float) else v for k, v in data.items()}
        rounded["duration_s"] = round(self.duration_s, 4)
        rounded["dc_offset"] = [round(v, 6) for v in self.dc_offset]
        rounded["clipped_at_s"] = [round(v, 4) for v in self.clipped_at_s]
        if self.hum:
            rounded["hum"] = {
                "base_hz": self.hum.base_hz,
                "level_dbfs": round(self.hum.level_dbfs, 2),
                "above_db": round(self.hum.above_db, 2),
                "lines_hz": list(self.hum.lines_hz),
            }
        if self.sides:
            rounded["sides"] = {
                k: None if v is None else round(v, 2)
                for k, v in dataclasses.asdict(self.sides).items()
            }
        if self.balance:
            rounded["balance"] = {k: round(v, 2) for k, v in self.balance.as_json().items()}
        rounded["noise_floor_shift"] = self.noise_floor_shift and self.noise_floor_shift.as_json()
        rounded["room_tones"] = [found.as_json() for found in self.room_tones]
        rounded["speech_events"] = self.speech_events and self.speech_events.as_json()
        rounded["spectrum"] = self.spectrum and [
            {"freq_hz": freq_hz, "level_dbfs": None if level is None else round(level, 2)}
            for freq_hz, level in self.spectrum.third_octaves()
        ]
        return rounded

    def shifted(self, gain_db: float) -> Measures | None:
        """Measures after a plain gain; None where a gate of the loudness could decide otherwise."""
        if self.integrated_lufs is None or min(0.0, gain_db) + self.integrated_lufs < -55.0:
            return None
        factor = db_to_factor(gain_db)
        moved = {
            name: value + gain_db
            for name in _LEVEL_FIELDS
            if (value := getattr(self, name)) is not None
        }
        return dataclasses.replace(
            self,
            **moved,
            hum=self.hum
            and dataclasses.replace(self.hum, level_dbfs=self.hum.level_dbfs + gain_db),
            spectrum=self.spectrum and self.spectrum.shifted(gain_db),
            sides=self.sides and self.sides.shifted(gain_db),
            speech_events=self.speech_events and self.speech_events.shifted(gain_db),
            speaker_frames=self.speaker_frames and self.speaker_frames.shifted(gain_db),
            room_tones=tuple(
                dataclasses.replace(found, level_dbfs=found.level_dbfs + gain_db)
                for found in self.room_tones
            ),
            dc_offset=tuple(v * factor for v in self.dc_offset),
            sample_extremes=tuple((a * factor, b * factor) for a, b in self.sample_extremes),
            true_extremes=tuple((a * factor, b * factor) for a, b in self.true_extremes),
        )

    def centred(self, offsets: tuple[float, ...]) -> Measures | None:
        """Measures after a small offset was taken from each channel: where it starts to be missing, at
        the first sample, nothing is heard. None where the sound is not much larger than that."""
        if not any(offsets):
            return self
        pairs = zip(self.sample_extremes, offsets, strict=True)
        if any(min(high, -low) < 2.0 * abs(dc) for (low, high), dc in pairs):
            return None
        power = float(np.square(offsets).mean())
        samples, between = (
            tuple((low - dc, high - dc) for (low, high), dc in zip(pairs, offsets, strict=True))
            for pairs in (self.sample_extremes, self.true_extremes)
        )
        peak, true_peak = (
            level_or_none(factor_to_db(max(max(-low, high) for low, high in pairs)))
            for pairs in (samples, between)
        )
        rms = None if self.rms_dbfs is None else level_without(self.rms_dbfs, power)
        return dataclasses.replace(
            self,
            sample_peak_dbfs=peak,
            true_peak_dbtp=true_peak,
            rms_dbfs=rms,
            crest_db=peak - rms if peak is not None and rms is not None else None,
            dc_offset=tuple(v - dc for v, dc in zip(self.dc_offset, offsets, strict=True)),
            spectrum=self.spectrum and self.spectrum.without_offset(power),
            sides=self.sides and self.sides.centred(*offsets),
            sample_extremes=samples,
            true_extremes=between,
        )

    @property
    def learned_spans(self) -> tuple[Span, ...]:
        """Where noise is learned from when no room tone is marked, the longest first."""
        return tuple(found.span for found in self.room_tones if found.in_use)

    @property
    def room_is_heard(self) -> bool:
        """Whether there is speech, and more than digital silence between its words."""
        gated = self.noise_floor_dbfs is None and self.digital_silence_share > 0.0
        return self.voice_level_dbfs is not None and not gated

    @property
    def is_full(self) -> bool:
        """Whether every part was measured that a result shows."""
        return self.parts >= RESULT_PARTS

    @property
    def levels(self) -> Levels:
        """The three figures of the level path."""
        return Levels(self.true_peak_dbtp, self.voice_level_dbfs, self.noise_floor_dbfs)


@dataclasses.dataclass(frozen=True)
class Levels:
    """What the level path shows at one point of a chain."""

    true_peak_dbtp: float | None
    voice_level_dbfs: float | None
    noise_floor_dbfs: float | None

    def shifted(self, gain_db: float) -> Levels:
        """Levels after a plain gain."""
        return Levels(*(None if v is None else v + gain_db for v in dataclasses.astuple(self)))

    def as_json(self) -> dict[str, float | None]:
        """JSON object, rounded to 0.01 dB."""
        return {k: None if v is None else round(v, 2) for k, v in dataclasses.asdict(self).items()}
