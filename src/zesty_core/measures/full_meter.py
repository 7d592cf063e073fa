"""All measures of one signal, taken in a single pass. Definitions stand beside each meter."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from zesty_core.foundation.signal import Block, SignalInfo, Span
from zesty_core.foundation.units import (
    factor_to_db,
    level_or_none,
    power_to_db,
)
from zesty_core.measures.clipping import ClippingMeter
from zesty_core.measures.hops import SAMPLES, SQUARES, HopSums, added_in_order, samples_per_ms
from zesty_core.measures.hum import HumMeter
from zesty_core.measures.loudness import LoudnessMeter
from zesty_core.measures.noise import NoiseFloor, NoiseInSpan, NoiseMeter
from zesty_core.measures.report import RESULT_PARTS, Measures
from zesty_core.measures.sides import SidesMeter
from zesty_core.measures.speaker_frames import SpeakerFramesMeter
from zesty_core.measures.spectrum import SpectrumMeter
from zesty_core.measures.speech import SpeechMeter
from zesty_core.measures.speech_events import SpeechEvents, SpeechEventsMeter
from zesty_core.measures.swing import SwingMeter
from zesty_core.measures.true_peak import TruePeakMeter

#: Milliseconds whose sums are read together.
_HOPS_TOGETHER = 16_384

#: A room so far over its calmest half second is not told by that.
_TONE_ABOVE_DB = 6.0
#: A signal whose active level stands no further above its floor holds no speech, or nothing else.
_LEAST_CLEARANCE_DB = 3.0


class Meter(Protocol):
    """Anything that is fed in blocks."""

    def push(self, block: Block) -> None:
        """Take the next block into account."""


class FullMeter:
    """Every measure in one pass.

    ``parts`` limits the work to some of ``PARTS`` where only those figures are wanted; the others
    answer None. One more, "speakers", is taken only where it is asked for. With ``room_tone`` the noise
    floor is that of this span, else of the quietest half second, or of a room that is restless by
    itself that of the room tone found.
    """

    OF_RESULTS = RESULT_PARTS
    PARTS = OF_RESULTS | {"room"}

    def __init__(
        self,
        info: SignalInfo,
        room_tone: Span | None = None,
        parts: frozenset[str] = PARTS,
    ) -> None:
        self._info, self._parts = info, parts
        self._peak = TruePeakMeter(info.sample_rate_hz, info.channels)
        self._speech = SpeechMeter(info.sample_rate_hz, info.channels)
        self._loudness = LoudnessMeter(info.sample_rate_hz, info.channels)
        self._noise_there = (
            NoiseInSpan(room_tone, info.sample_rate_hz, info.channels) if room_tone else None
        )
        self._clipping = ClippingMeter(info.channels)
        self._hum = HumMeter(info.sample_rate_hz) if "hum" in parts else None
        self._spectrum = SpectrumMeter(info)
        wanted = "speech_events" in parts
        # It keeps much, so it is there only where something is to be looked for.
        looking = "room" in parts or ("noise" in parts and room_tone is None)
        self._noise = NoiseMeter(info.sample_rate_hz, info.channels) if looking else None
        self._speech_events = (
            SpeechEventsMeter(info.sample_rate_hz, info.channels) if wanted else None
        )
        self._speakers = SpeakerFramesMeter(info) if "speakers" in parts else None
        self._sides = SidesMeter() if wanted and info.channels == 2 else None
        meters: dict[str, Meter] = {
            "peak": self._peak,
            "loudness": self._loudness,
            "clipping": self._clipping,
            "spectrum": self._spectrum,
        }
        if self._speakers:
            meters["speakers"] = self._speakers
        self._alone = tuple(meter.push for part, meter in meters.items() if part in parts)
        # Voice and noise share their sums over milliseconds.
        self._sums = HopSums(samples_per_ms(info.sample_rate_hz), info.channels)
        self._swing = SwingMeter(self._sums.hop_samples, info.channels)
        self._hops: list[NDArray[np.float64]] = []
        self._waiting = 0
        self._energy, self._samples = 0.0, 0
        self._totals = np.zeros(info.channels)

    @property
    def pushes(self) -> tuple[Callable[[Block], None], ...]:
        """Take the next block into account, all of them in any order or at the same time."""
        # Kept as a field, a method of its own would keep the meter, and all it holds, alive.
        return *self._alone, self._push_hops

    def push(self, block: Block) -> None:
        """Take the next block into account."""
        for push in self.pushes:
            push(block)

    def _push_hops(self, block: Block) -> None:
        """What is read off the sums over milliseconds."""
        hops = self._sums.push(block)
        self._hops.append(hops)
        self._waiting += hops.shape[1]
        if self._waiting >= _HOPS_TOGETHER:
            self._take_hops()
        if self._noise_there:
            self._noise_there.push(block)
        if self._sides:
            self._sides.push(block)
        self._samples += block.shape[1]

    def _take_hops(self) -> None:
        """Hand on the sums that wait. Many at a time: small calls wait for other threads."""
        if not self._hops:
            return
        hops = np.concatenate(self._hops, axis=1)
        self._hops, self._waiting = [], 0
        if "speech" in self._parts:
            self._speech.push_hops(hops)
            self._swing.push_hops(hops)
        if self._noise:
            self._noise.push_hops(hops)
        if self._hum:
            self._hum.push_hops(hops)
        if self._speech_events:
            self._speech_events.push_hops(hops)
        for channel, sums in enumerate(hops):
            self._energy = added_in_order(self._energy, sums, SQUARES)
            self._totals[channel] = added_in_order(self._totals[channel], sums, SAMPLES)

    def finish(self) -> Measures:
        """Figures of everything pushed."""
        self._take_hops()
        self._peak.finish()
        self._clipping.finish()
        rate, peak = self._info.sample_rate_hz, self._peak
        sample_peak = factor_to_db(float(max(peak.sample_high.max(), -peak.sample_low.min())))
        true_peak = factor_to_db(float(max(peak.high.max(), -peak.low.min())))
        energy = self._energy + float(self._sums.rest[:, SQUARES].sum())
        rms = power_to_db(energy / max(1, self._samples * self._info.channels))
        integrated = self._loudness.integrated_lufs()
        voice, floor, reasons = self._voice_and_floor()
        searched = self._noise if "room" in self._parts else None
        voice_level = voice[0] if voice else None
        room_tones = searched.room_tones(voice_level) if searched else []
        restless = [tone for tone in room_tones[:1] if tone.above_quietest_db > _TONE_ABOVE_DB]
        if searched and restless and not self._noise_there:
            floor = searched.floor_in(restless[0])
        duration_s = self._samples / rate
        if level_or_none(sample_peak) is None:
            reasons |= dict.fromkeys(("sample_peak_dbfs", "true_peak_dbtp", "rms_dbfs"), "silence")
        if integrated is None:
            reasons["integrated_lufs"] = (
                "shorter than 0.4 s" if duration_s < 0.4 else "never above -70 LUFS"
            )
        return Measures(
            duration_s=duration_s,
            sample_rate_hz=rate,
            channels=self._info.channels,
            sample_peak_dbfs=level_or_none(sample_peak),
            true_peak_dbtp=level_or_none(true_peak),
            rms_dbfs=level_or_none(rms),
            crest_db=sample_peak - rms if level_or_none(rms) is not None else None,
            integrated_lufs=integrated,
            momentary_max_lufs=self._loudness.momentary_max_lufs(),
            short_term_max_lufs=self._loudness.short_term_max_lufs(),
            loudness_range_lu=self._loudness.loudness_range_lu(),
            voice_level_dbfs=voice[0] if voice else None,
            voice_activity=voice[1] if voice else None,
            noise_floor_dbfs=floor.level_dbfs if floor else None,
            noise_floor_source=floor.source if floor else None,
            noise_floor_span=floor.span if floor else None,
            clearance_db=voice[0] - floor.level_dbfs if voice and floor else None,
            digital_silence_share=searched.digital_silence_share() if searched else 0.0,
            dc_offset=tuple(float(v) for v in self._offset()),
            clipped_runs=self._clipping.runs,
            clipped_at_s=tuple(m / rate for m in self._clipping.marks),
            hum=self._hum.finish() if self._hum else None,
            spectrum=self._spectrum.finish(),
            balance=self._spectrum.balance() if voice else None,
            sides=self._sides.finish() if self._sides else None,
            speech_events=self._speech_events_given(voice, floor),
            reasons=reasons,
            parts=self._parts,
            found_room_tone=room_tones[0].span if room_tones else None,
            room_tones=tuple(room_tones),
            noise_floor_shift=searched.noise_floor_shift(voice_level) if searched else None,
            sample_extremes=_pairs(peak.sample_low, peak.sample_high),
            true_extremes=_pairs(peak.low, peak.high),
            speaker_frames=self._speakers.finish() if self._speakers else None,
        )

    def _speech_events_given(
        self, voice: tuple[float, float] | None, floor: NoiseFloor | None
    ) -> SpeechEvents | None:
        if self._speech_events is None:
            return None
        return self._speech_events.finish(
            voice[0] if voice else None, floor.level_dbfs if floor else None
        )

    def _offset(self) -> Any:
        """Mean of each channel, the last part of a millisecond included."""
        total = self._totals + self._sums.rest[:, SAMPLES]
        return total / max(1, self._samples)

    def _voice_and_floor(
        self,
    ) -> tuple[tuple[float, float] | None, NoiseFloor | None, dict[str, str]]:
        reasons: dict[str, str] = {}
        noise = self._noise_there or self._noise
        floor = noise.floor() if noise else None
        if floor is None:
            short = self._samples < 0.5 * self._info.sample_rate_hz
            reasons["noise_floor_dbfs"] = (
                "shorter than half a second"
                if short
                else ("no half second without digital silence")
            )
        voice = self._speech.level_and_activity()
        if voice is None:
            reasons["voice_level_dbfs"] = "silence"
        elif floor and voice[0] - floor.level_dbfs < _LEAST_CLEARANCE_DB:
            if self._swing.is_like_speech(voice[0]):
                floor = None
                reasons["noise_floor_dbfs"] = "somebody speaks in every half second"
            else:
                voice = None
                reasons["voice_level_dbfs"] = "no speech: nothing stands 3 dB above the background"
        if voice is None or floor is None:
            reasons["clearance_db"] = "needs a voice level and a noise floor"
        return voice, floor, reasons


def _pairs(low: Any, high: Any) -> tuple[tuple[float, float], ...]:
    return tuple((float(a), float(b)) for a, b in zip(low, high, strict=True))
