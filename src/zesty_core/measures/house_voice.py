"""The voice a show is used to: its tone, level, evenness, clearance; and how far one is from it.

Tone is the average spectrum less that of the room, in third octaves (IEC 61260-1, base ten) from 100 Hz
to 10 kHz, relative to its own mean: no gain changes it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.foundation.errors import BadInput
from zesty_core.measures.spectrum import Spectrum

#: Middle frequencies, as spectra of measures name them.
TONE_HZ = tuple(round(1000.0 * 10.0 ** (k / 10.0), 1) for k in range(-10, 11))
#: A band of the voice is reliable so far over the room's, and may be boosted from so far over it.
_RELIABLE_OVER_NOISE_DB, BOOST_OVER_NOISE_DB = 3.0, 10.0
_FEWEST_BANDS = 10
_MOST_DB = 90.0


@dataclass(frozen=True)
class VoiceTone:
    """Level of each band of ``TONE_HZ`` in dB, relative to the mean of the reliable ones."""

    levels_db: NDArray[np.float64]
    reliable: NDArray[np.bool_]
    #: Whether the voice stands far enough over the room for a boost.
    clear: NDArray[np.bool_]

    def gap_to(self, tone_db: Sequence[float]) -> NDArray[np.float64]:
        """What would have to be added to each band; 0 where the band is not reliable."""
        wanted = np.asarray(tone_db, float)
        wanted = wanted - wanted[self.reliable].mean()
        return np.where(self.reliable, wanted - self.levels_db, 0.0)


def voice_tone(
    spectrum: Spectrum, noise: Spectrum | None, activity: float | None
) -> VoiceTone | None:
    """Tone of a voice.

    Parameters
    ----------
    spectrum : Spectrum
        Average of the whole recording.
    noise : Spectrum, optional
        Of the room by itself.
    activity : float, optional
        Share of the time in which somebody speaks, 0..1.

    Returns
    -------
    tone : VoiceTone or None
        None where too few bands stand over the room.
    """
    whole = _band_powers(spectrum)
    room = _band_powers(noise) if noise else np.zeros(len(TONE_HZ))
    speaks = max(0.05, activity or 1.0)
    voice = np.maximum(whole - room, 0.0) / speaks
    over_db = 10.0 * np.log10((voice + 1e-30) / (room + 1e-28))
    reliable = (voice > 1e-16) & (over_db > _RELIABLE_OVER_NOISE_DB)
    if reliable.sum() < _FEWEST_BANDS:
        return None
    levels_db = 10.0 * np.log10(voice + 1e-30)
    levels_db -= levels_db[reliable].mean()
    return VoiceTone(levels_db, reliable, over_db > BOOST_OVER_NOISE_DB)


def _band_powers(spectrum: Spectrum) -> NDArray[np.float64]:
    half = 10.0**0.05
    return np.array([spectrum.band_power(f / half, f * half) for f in TONE_HZ])


@dataclass(frozen=True)
class HouseVoice:
    """What recordings are compared with; None where none of its recordings has the figure."""

    tone_db: tuple[float, ...]
    voice_level_dbfs: float | None
    spread_db: float | None
    clearance_db: float | None

    def as_json(self) -> dict[str, Any]:
        """JSON object."""
        return asdict(self) | {"tone_db": list(self.tone_db)}

    @classmethod
    def from_json(cls, value: Mapping[str, Any]) -> HouseVoice:
        """What :meth:`as_json` made."""
        return cls(**{**value, "tone_db": tuple(value["tone_db"])})


@dataclass(frozen=True)
class Distance:
    """How far a recording is from a house voice: recording less house voice, in dB."""

    tone_db: float
    bands_db: tuple[float, ...]
    voice_level_db: float | None
    spread_db: float | None
    clearance_db: float | None

    def as_json(self) -> dict[str, Any]:
        """JSON object, rounded."""
        figures = {
            k: None if v is None else round(v, 2)
            for k, v in asdict(self).items()
            if k != "bands_db"
        }
        return figures | {"bands_db": [round(v, 2) for v in self.bands_db]}


def house_voice_of(documents: Sequence[Mapping[str, Any]]) -> HouseVoice:
    """The house voice that finished recordings have in common.

    Parameters
    ----------
    documents : sequence of mappings
        Measures as JSON, all parts of results.

    Raises
    ------
    BadInput
        There is no recording with a voice and a spectrum among them.
    """
    tones = [tone for tone in map(tone_of_document, documents) if tone is not None]
    if not tones:
        raise BadInput("house voice: needs at least one measured recording with a voice")
    return HouseVoice(
        tuple(round(float(v), 2) for v in np.mean(tones, axis=0)),
        _mean(doc.get("voice_level_dbfs") for doc in documents),
        _mean(map(phrase_spread_db, documents)),
        _mean(doc.get("clearance_db") for doc in documents),
    )


def tone_of_document(measures: Mapping[str, Any]) -> NDArray[np.float64] | None:
    """Levels of the bands relative to their mean; None where there is no voice."""
    if measures.get("voice_level_dbfs") is None or not measures.get("spectrum"):
        return None
    levels = {row["freq_hz"]: row["level_dbfs"] for row in measures["spectrum"]}
    row = [levels.get(freq_hz) for freq_hz in TONE_HZ]
    present = [level for level in row if level is not None]
    if len(present) < _FEWEST_BANDS:
        return None
    mean = float(np.mean(present))
    # A band that is not there (a low rate, digital silence) lies far down.
    return np.array([-_MOST_DB if level is None else level - mean for level in row])


def phrase_spread_db(measures: Mapping[str, Any]) -> float | None:
    """From the 10th to the 90th percentile of the levels of phrases; None for fewer than three."""
    phrases = (measures.get("speech_events") or {}).get("phrases") or []
    if len(phrases) < 3:
        return None
    levels = [phrase["level_dbfs"] for phrase in phrases]
    return float(np.subtract(*np.percentile(levels, (90, 10))))


def distance_from(measures: Mapping[str, Any], house: HouseVoice) -> Distance | None:
    """How far a recording, by its measures as JSON, is from a house voice; None without a voice."""
    tone = tone_of_document(measures)
    if tone is None:
        return None
    bands = tone - np.asarray(house.tone_db)
    bands -= bands.mean()

    def less(value: float | None, wanted: float | None) -> float | None:
        return None if value is None or wanted is None else value - wanted

    return Distance(
        float(np.abs(bands).mean()),
        tuple(float(v) for v in bands),
        less(measures.get("voice_level_dbfs"), house.voice_level_dbfs),
        less(phrase_spread_db(measures), house.spread_db),
        less(measures.get("clearance_db"), house.clearance_db),
    )


def _mean(values: Any) -> float | None:
    there = [float(value) for value in values if value is not None]
    return round(float(np.mean(there)), 2) if there else None
