"""The late part of a room's reverberation, foretold from the sound before it and taken out.

Weighted prediction error in the frequency domain: Nakatani, Yoshioka, Kinoshita, Miyoshi & Juang,
"Speech dereverberation based on variance-normalized delayed linear prediction", IEEE Trans. ASLP 18(7),
2010; one round, each piece by the sums of the pieces around it. What stays is turned down by the share
of what was foretold (Lebart, Boucher & Denbigh, Acta Acustica 87, 2001; smoothed after Ephraim & Malah,
1984).
"""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.transforms import rows_of, spectra_of
from zesty_core.runtime.kernel import kernel

Complex = NDArray[np.complex64]
Powers = NDArray[np.float32]

#: Frames are four hops long and hops about 8 ms.
OVERLAP = 4
#: The first frames behind a sound belong to its early reflections; so many more are looked back.
_DELAY, TAPS = 2, 24
HISTORY = _DELAY + TAPS
#: Pieces around each one whose sums decide.
AROUND = 4
#: Above this nothing is foretold; the gain of the octave's top below it serves.
_HIGHEST_HZ, _TOP_FROM_HZ = 8000.0, 5600.0
_LEAST_WEIGHT, _FIRMNESS, _NOTHING = 1e-3, 1e-4, 1e-9
#: Dry voices foretell little of themselves: up to here nothing is taken, from there on all (measured,
#: medians: dry voices -15 to -20 dB, in noise -11 to -12, in made rooms of 0.3 to 0.9 s -6 to -7).
DRY_DB, ROOM_DB = -9.5, -8.0
_STAYS, _SMOOTH, _TRUST = 1.0, 0.6, 0.8


@dataclass
class _Piece:
    """Frames of one piece of all channels, their history in front, and their sums."""

    spectra: Complex
    matrix: Complex
    vector: Complex
    #: Power of all frames, weighted, and how many frames sound.
    power: float
    frames: int


class LateReverberation:
    """Goes through the spectra of a signal piece by piece."""

    def __init__(self, channels: int, bins: int, bin_hz: float, frames: int) -> None:
        self._frames = frames
        self._foretold = min(bins, int(_HIGHEST_HZ / bin_hz) + 1)
        self._top = slice(min(self._foretold - 1, int(_TOP_FROM_HZ / bin_hz)), self._foretold)
        self._last: Complex = np.zeros((channels, HISTORY, bins), np.complex64)
        nothing = self._nothing(channels, bins)
        self._pieces: deque[_Piece] = deque([nothing] * AROUND, maxlen=2 * AROUND + 1)
        self._smoothed = np.zeros((channels, bins), np.float32)
        self._clean = np.zeros((channels, bins), np.float32)
        self.shares_db: list[float] = []

    def _nothing(self, channels: int, bins: int) -> _Piece:
        shape = (channels, HISTORY + self._frames, bins)
        return _Piece(np.zeros(shape, np.complex64), *self._sums(np.zeros(shape, np.complex64)))

    def push(self, spectra: Complex, most: float) -> tuple[Complex, bool] | None:
        """Take the next piece, shape (channels, frames, bins); gives that of ``AROUND`` pieces ago,
        and whether anything was taken from it.

        ``most`` is the largest share of any sound that goes, as an amplitude.
        """
        whole = np.concatenate([self._last, spectra], axis=1)
        self._last = whole[:, -HISTORY:].copy()
        self._pieces.append(_Piece(whole, *self._sums(whole)))
        return self._made(most) if len(self._pieces) == 2 * AROUND + 1 else None

    def finish(self, most: float) -> list[tuple[Complex, bool]]:
        """The pieces that are still held."""
        made = []
        channels, _, bins = self._last.shape
        for _ in range(AROUND):
            self._pieces.append(self._nothing(channels, bins))
            if len(self._pieces) == 2 * AROUND + 1:
                made.append(self._made(most))
        return made

    def _sums(self, whole: Complex) -> tuple[Complex, Complex, float, int]:
        """Correlations of a piece with its past, weighted by how soft each frame is."""
        matrix = np.zeros((self._foretold, TAPS, TAPS), np.complex64)
        vector = np.zeros((self._foretold, TAPS), np.complex64)
        all_ = 0.0
        # Channels that are alike say no more than one.
        frames = int(np.count_nonzero(whole[:, HISTORY:].any(axis=(0, 2))))
        for channel in whole[:, :, : self._foretold]:
            if not channel.any():
                continue
            power = np.square(channel.real) + np.square(channel.imag)
            near = 0.5 * (power[HISTORY:] + power[HISTORY - 1 : -1])
            near = np.maximum(near, _LEAST_WEIGHT * near.mean(axis=0) + _NOTHING)
            all_ += float((power[HISTORY:] / near).sum(dtype=np.float64))
            past = _past(channel)
            weighted = past.conj() / near.T[:, None, :]
            matrix += weighted @ past.transpose(0, 2, 1)
            now = np.ascontiguousarray(channel[HISTORY:].T)
            vector += np.asarray(np.matmul(weighted, now[:, :, None]), np.complex64)[:, :, 0]
        return matrix, vector, all_, frames

    def _made(self, most: float) -> tuple[Complex, bool]:
        """The middle piece without what is foretold of it."""
        matrix = np.stack([piece.matrix for piece in self._pieces]).sum(axis=0)
        vector = np.stack([piece.vector for piece in self._pieces]).sum(axis=0)
        firm = np.trace(matrix, axis1=1, axis2=2).real * (_FIRMNESS / TAPS) + _NOTHING
        matrix += firm[:, None, None] * np.eye(TAPS, dtype=np.float32)
        filters = np.linalg.solve(matrix, vector[:, :, None])[:, :, 0]
        whole = self._pieces[AROUND].spectra
        now = whole[:, HISTORY:].copy()
        late = np.zeros_like(now)
        for channel, sound in enumerate(whole[:, :, : self._foretold]):
            foretold = np.matmul(filters[:, None, :], _past(sound))[:, 0]
            late[channel, :, : self._foretold] = foretold.T
        share = most * self._sureness(vector, filters)
        if share > 0.0:
            for channel in range(len(now)):
                smoothed, clean = self._smoothed[channel], self._clean[channel]
                _take(now[channel], late[channel], share, self._foretold, smoothed, clean)
                self._turn_top_down(now[channel], whole[channel, HISTORY:])
        return now, share > 0.0

    def _sureness(self, vector: Complex, filters: Complex) -> float:
        """From 0, a dry voice, to 1."""
        frames = sum(piece.frames for piece in self._pieces)
        all_ = sum(piece.power for piece in self._pieces)
        if frames <= 2 * TAPS or all_ <= 0.0:
            return 0.0
        foretold = float((vector.conj() * filters).real.sum(dtype=np.float64)) / all_
        # So much is foretold of any noise, by chance.
        chance = TAPS / frames
        share_db = 10.0 * np.log10(max((foretold - chance) / (1.0 - chance), 1e-6))
        self.shares_db.append(share_db)
        return float(np.clip((share_db - DRY_DB) / (ROOM_DB - DRY_DB), 0.0, 1.0))

    def _turn_top_down(self, now: Complex, before: Complex) -> None:
        if self._foretold == now.shape[1]:
            return
        kept = np.square(np.abs(now[:, self._top])).sum(axis=1)
        whole = np.square(np.abs(before[:, self._top])).sum(axis=1) + _NOTHING
        now[:, self._foretold :] *= np.sqrt(np.minimum(1.0, kept / whole))[:, None]


def _past(sound: Complex) -> Complex:
    """What each frame of a piece is foretold from, shape (bins, taps, frames)."""
    frames = len(sound) - HISTORY
    rows = [sound[HISTORY - _DELAY - k : HISTORY - _DELAY - k + frames] for k in range(TAPS)]
    return np.ascontiguousarray(np.stack(rows).transpose(2, 0, 1))


@kernel
def _take(
    now: Complex, late: Complex, share: float, bins: int, smoothed: Powers, clean: Powers
) -> None:
    """Take the late part out of each frame, and turn down by what may be left of it."""
    least = 1.0 - share
    for t in range(now.shape[0]):
        for k in range(bins):
            left = now[t, k] - np.float32(share) * late[t, k]
            foretold_power = late[t, k].real * late[t, k].real + late[t, k].imag * late[t, k].imag
            smoothed[k] = _SMOOTH * smoothed[k] + (1.0 - _SMOOTH) * foretold_power
            stays = _STAYS * share * smoothed[k] + _NOTHING * _NOTHING
            power = left.real * left.real + left.imag * left.imag
            ratio = _TRUST * clean[k] / stays + (1.0 - _TRUST) * max(power / stays - 1.0, 0.0)
            gain = max(ratio / (1.0 + ratio), least)
            clean[k] = gain * gain * power
            now[t, k] = left * np.float32(gain)


def frames_of(sound: NDArray[np.float32], window: NDArray[np.float32], hop: int) -> Complex:
    """Spectra of the frames of one channel, shape (frames, bins)."""
    frames = (len(sound) - len(window)) // hop + 1
    cut = np.lib.stride_tricks.sliding_window_view(sound, len(window))[::hop][:frames]
    return np.asarray(spectra_of(np.ascontiguousarray(cut * window)), np.complex64)


def sound_of(spectra: Complex, window: NDArray[np.float32]) -> NDArray[np.float32]:
    """Windowed frames again."""
    return np.asarray(rows_of(spectra, len(window)) * window, np.float32)
