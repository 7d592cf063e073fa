"""Breaths between phrases: sound without pitch, softer than the voice, apart from what is spoken.

Marks of a breath after Ruinskiy & Lavner, IEEE Trans. Audio Speech Lang. Process. 15(3), 2007 (level,
zero crossings or spectrum, length, place); limits were set on recorded voices into which made breaths
had been put.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.runs import merged_runs

Samples = NDArray[np.float64]
Flags = NDArray[np.bool_]

_HOP_S, _FRAME_S = 0.01, 0.04
#: Pitch is looked for in a sound of about this rate, for voices from here to there.
_PITCH_RATE_HZ, _VOICES_HZ = 4000, (70.0, 420.0)
_VOICED = 0.5
#: A breath lies so far over the room, and so far under the voice.
_OVER_ROOM_DB, _UNDER_VOICE_DB = 7.0, 11.0
_SHORTEST_S, _LONGEST_S, _GAP_S = 0.15, 0.9, 0.05
#: What follows a voice at once is its last consonant, and what goes over into one is its first.
_BEHIND_VOICE_S, _BEFORE_VOICE_S, _CONSONANT_S = 0.05, 0.03, 0.13
#: Hissing consonants have their weight higher up.
_HIGHEST_CENTRE_HZ, _LOWEST_CENTRE_HZ = 4200.0, 500.0
#: Somebody speaks within this; laughter and whispering have no voice at one side or the other.
_NEAR_S = 0.7
_NOTHING = 1e-12


def find_breaths(
    sound: Samples,
    sample_rate_hz: int,
    hop: int,
    voice_level_dbfs: float,
    noise_floor_dbfs: float,
    stricter_db: float,
) -> list[tuple[int, int, float]]:
    """First sample of each breath, the one behind its last, and its level in dBFS.

    Parameters
    ----------
    sound : array, shape (n,)
    sample_rate_hz : int
    hop : int
        Samples of about 10 ms; the sound begins on one.
    voice_level_dbfs, noise_floor_dbfs : float
        Of the whole recording.
    stricter_db : float
        A breath must lie so much further from voice and room than usual.
    """
    level_db = _levels_db(sound, hop)
    hops = len(level_db)
    voiced = _voiced(sound, sample_rate_hz, hop, hops) & (level_db > voice_level_dbfs - 25.0)
    margin_db = 0.5 * stricter_db
    could_be = (
        ~voiced
        & (level_db > noise_floor_dbfs + _OVER_ROOM_DB + margin_db)
        & (level_db < voice_level_dbfs - _UNDER_VOICE_DB - margin_db)
    )
    asked = np.flatnonzero(could_be)
    centre_hz = _centres_hz(sound, sample_rate_hz, hop, asked)
    could_be[asked] = (centre_hz < _HIGHEST_CENTRE_HZ) & (centre_hz > _LOWEST_CENTRE_HZ)
    spoken = voiced | (level_db >= voice_level_dbfs - _UNDER_VOICE_DB)
    found = []
    for a, b in merged_runs(could_be, round(_GAP_S / _HOP_S)):
        start, stop = _without_consonants(a, b, spoken)
        length_s = (stop - start) * _HOP_S
        near = voiced[max(0, start - round(_NEAR_S / _HOP_S)) : stop + round(_NEAR_S / _HOP_S)]
        if (
            _SHORTEST_S <= length_s <= _LONGEST_S
            and near.any()
            and could_be[start:stop].mean() > 0.6
        ):
            middle_db = float(np.median(level_db[start:stop]))
            found.append((start * hop, stop * hop, middle_db))
    return found


def _levels_db(sound: Samples, hop: int) -> Samples:
    """Of every hop, over 30 ms."""
    hops = len(sound) // hop
    power = np.square(sound[: hops * hop]).reshape(hops, hop).mean(axis=1)
    return np.asarray(10.0 * np.log10(np.convolve(power, np.full(3, 1 / 3), "same") + _NOTHING))


def _frames(sound: Samples, frame: int, hop: float, hops: NDArray[np.intp]) -> Samples:
    """A frame around the middle of each of these hops."""
    padded = np.concatenate([np.zeros(frame), sound, np.zeros(2 * frame)])
    first = np.round((hops + 0.5) * hop).astype(int) - frame // 2 + frame
    return padded[first[:, None] + np.arange(frame)]


def _voiced(sound: Samples, sample_rate_hz: int, hop: int, hops: int) -> Flags:
    """Whether each hop repeats itself with a voice's period."""
    from scipy.signal import resample_poly

    step = max(1, round(sample_rate_hz / _PITCH_RATE_HZ))
    rate = sample_rate_hz / step
    low = resample_poly(sound, 1, step)
    frame = round(_FRAME_S * rate)
    frames = _frames(low, frame, hop / step, np.arange(hops)) * np.hanning(frame)
    size = 1 << (2 * frame - 1).bit_length()
    spectra = np.square(np.abs(np.fft.rfft(frames, size)))
    # The lowest are rumble.
    spectra[:, : round(50.0 * size / rate)] = 0.0
    repeats = np.fft.irfft(spectra, size)
    window = np.fft.irfft(np.square(np.abs(np.fft.rfft(np.hanning(frame), size))), size)
    shortest, longest = (round(rate / hz) for hz in reversed(_VOICES_HZ))
    lags = slice(shortest, min(longest, frame * 3 // 4))
    likeness = repeats[:, lags] / (window[lags] / window[0] * (repeats[:, :1] + _NOTHING))
    return np.asarray(likeness.max(axis=1) > _VOICED)


def _centres_hz(sound: Samples, sample_rate_hz: int, hop: int, hops: NDArray[np.intp]) -> Samples:
    """Where half of each of these hops' sound from 200 Hz on lies below."""
    frame = 2 * hop
    spectra = np.square(np.abs(np.fft.rfft(_frames(sound, frame, hop, hops) * np.hanning(frame))))
    freqs_hz = np.fft.rfftfreq(frame, 1.0 / sample_rate_hz)
    counts = (freqs_hz >= 200.0) & (freqs_hz <= 12_000.0)
    sums = np.cumsum(spectra[:, counts], axis=1)
    half = np.argmax(sums >= 0.5 * sums[:, -1:], axis=1)
    return np.asarray(freqs_hz[counts][half])


def _without_consonants(a: int, b: int, spoken: Flags) -> tuple[int, int]:
    """What is left of a run without consonants at its ends."""
    behind, before = round(_BEHIND_VOICE_S / _HOP_S), round(_BEFORE_VOICE_S / _HOP_S)
    consonant = round(_CONSONANT_S / _HOP_S)
    if spoken[max(0, a - behind) : a].any():
        a += consonant
    if spoken[b : b + before].any():
        b -= consonant
    return a, max(a, b)
