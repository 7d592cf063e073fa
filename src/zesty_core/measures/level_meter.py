"""What the level path shows behind a step, measured beside the work."""

from __future__ import annotations

from zesty_core.foundation.signal import Block, SignalInfo, Span
from zesty_core.foundation.units import factor_to_db, level_or_none
from zesty_core.measures.noise import NoiseInSpan
from zesty_core.measures.report import Levels
from zesty_core.measures.speech import SpeechMeter
from zesty_core.measures.true_peak import TruePeakMeter


class LevelMeter:
    """Meter of the level path: true peak, voice level, and the noise in a given span."""

    def __init__(self, info: SignalInfo, room_tone: Span | None) -> None:
        self._peak = TruePeakMeter(info.sample_rate_hz, info.channels)
        self._speech = SpeechMeter(info.sample_rate_hz, info.channels)
        self._noise = (
            NoiseInSpan(room_tone, info.sample_rate_hz, info.channels) if room_tone else None
        )

    def push(self, block: Block) -> None:
        """Take the next block into account."""
        self._peak.push(block)
        self._speech.push(block)
        if self._noise:
            self._noise.push(block)

    def finish(self) -> Levels:
        """Levels of everything pushed."""
        self._peak.finish()
        largest = max(self._peak.high.max(), -self._peak.low.min())
        voice = self._speech.level_and_activity()
        noise = self._noise.floor() if self._noise else None
        return Levels(
            level_or_none(factor_to_db(float(largest))),
            level_or_none(voice[0]) if voice else None,
            noise.level_dbfs if noise else None,
        )
