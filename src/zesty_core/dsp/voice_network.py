"""Voice in noisy spectra, found by a trained network that looks both ways in time.

Frames are those of :mod:`zesty_core.dsp.spectral`: about 32 ms, overlapping by two thirds. A bin is
31.25 Hz wide at 48 kHz, as in training, and 29.6 to 32.9 Hz at other rates. Bins below 5 kHz stay
single; above lie 25 bands. Inputs for each of these lines: log ratio of the power to the room tone's,
log power relative to the voice's, and how steadily the phase turns from frame to frame. Outputs: a
gain, below 5 kHz a filter over five frames, and the probability of a voice.

Architecture and training are this project's own (``training/network.py``, ``training/README.md``).
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from zesty_core.foundation.errors import BadInput
from zesty_core.runtime.kernel import kernel, summing_kernel

Values = NDArray[np.float32]
Spectra = NDArray[np.complex64]

FORMAT = 1
#: Bins of a frame at 48 kHz; of higher rates the lowest so many are looked at.
BINS = 769
_SINGLE = 160
_PATCH, _FEATURES, _TAPS = 4, 4, 5
_DILATIONS = (1, 2, 4, 8, 16, 1, 2, 4)
_REACH_TAPS = 7
#: Frames on either side that can change what comes out: those of the blocks, in pairs, and the edges.
REACH_FRAMES = 2 * (_REACH_TAPS // 2) * sum(_DILATIONS) + 4
#: Frames worked on together where they do not depend on each other.
_TOGETHER = 128
#: In pauses gains below the first are no voice, and from the second on they stand. What
#: stays of a pause would otherwise differ from the depth by what the network is unsure of.
_NO_VOICE_GAIN, _VOICE_GAIN = 0.1, 0.3
#: A frame is in a pause where no voice is likelier than the first within so many frames, and in a word
#: from the second on.
_PAUSE, _WORD, _PAUSE_FRAMES = 0.35, 0.75, 4
#: Bins in which the voice's level is counted.
LEVEL_BINS = slice(4, _SINGLE + 20)


def _band_edges() -> list[int]:
    edges, width = [_SINGLE], 4.0
    while edges[-1] < BINS:
        edges.append(int(min(BINS, edges[-1] + round(width))))
        width *= 1.13
    return [*edges[:-2], BINS] if BINS - edges[-2] < 10 else edges


_EDGES = _band_edges()
_BANDS = len(_EDGES) - 1
_LINES = _SINGLE + _BANDS
_PATCHES = -(-_LINES // _PATCH)
_PADDED = _PATCHES * _PATCH


def _bands_to_bins() -> tuple[Values, Values]:
    """Matrices: mean of each band, and interpolation from bands (and the last single bin) to bins."""
    mean = np.zeros((BINS - _SINGLE, _BANDS), np.float32)
    for k, (low, high) in enumerate(itertools.pairwise(_EDGES)):
        mean[low - _SINGLE : high - _SINGLE, k] = 1 / (high - low)
    centres = np.array([_SINGLE - 1.0, *((a + b - 1) / 2 for a, b in itertools.pairwise(_EDGES))])
    at = np.arange(_SINGLE, BINS)
    right = np.clip(np.searchsorted(centres, at), 1, _BANDS)
    share = np.clip((at - centres[right - 1]) / (centres[right] - centres[right - 1]), 0, 1)
    spread = np.zeros((_BANDS + 1, BINS - _SINGLE), np.float32)
    spread[right - 1, at - _SINGLE] = 1 - share
    spread[right, at - _SINGLE] += share
    return mean, spread


_MEAN, _SPREAD = _bands_to_bins()


#: SHA-256 of the file of weights. Another file changes the sound, and with it the engine version.
WEIGHTS_SHA256 = "ec502d835c5f64b654bf3314a67b8e7febd24eb62fe4f0a0c115d5969c61bd38"


@cache
def weights() -> dict[str, Values]:
    """The trained numbers by their names, and their ``format`` and ``step``.

    Raises :class:`BadInput` where the file is missing, or has another format.
    """
    try:
        with (resources.files(__package__) / "voice_network.npz").open("rb") as file:
            kept = np.load(file)
            numbers = {name: np.asarray(kept[name], np.float32) for name in kept.files}
    except FileNotFoundError:
        raise BadInput(
            "method: the voice model's file is not installed; choose statistics", path="method"
        ) from None
    if int(numbers["format"]) != FORMAT:
        raise BadInput(
            f"method: the voice model's file has format {int(numbers['format'])}, which must be "
            f"{FORMAT}; choose statistics",
            path="method",
        )
    return numbers


@dataclass(frozen=True)
class Filters:
    """What the network makes of frames.

    ``gains`` (frames, lines) in 0..1; ``taps`` (frames, single bins, parts, 5), real and imaginary
    parts of a filter over neighbouring frames; ``presence`` (frames,) in 0..1, how likely a voice is
    there; ``words`` (frames,), 1 in words and close to them, 0 in pauses.
    """

    gains: Values
    taps: Values
    presence: Values
    words: Values


class VoiceNetwork:
    """The network.

    ``numbers`` are its weights; without them, those that ship.
    """

    def __init__(self, numbers: dict[str, Values] | None = None) -> None:
        self._numbers = numbers or weights()

    def filters(
        self, spectra: Spectra, tone: NDArray[Any], level: float, own: slice = slice(None)
    ) -> Filters:
        """Filters for the voice.

        Parameters
        ----------
        spectra : (frames, bins) complex spectra.
        tone : (bins,) or (frames, bins) power of the room tone.
        level : mean power per bin of ``LEVEL_BINS`` in loud frames of the voice.
        own : frames to answer for; the others are context.
        """
        frames = len(spectra)
        inputs = _features(_fitted(spectra), _fitted(np.atleast_2d(tone)), level)
        if frames % 2:
            inputs = np.concatenate([inputs, inputs[-1:]])
        seen = self._seen(inputs)
        core = self._core(seen)
        presence = _sigmoid(self._dense(core, "voice").reshape(-1))[:frames]
        first, stop, _ = own.indices(frames)
        gains, taps = self._decoded(seen, core, first, stop)
        return Filters(gains, taps, presence[first:stop], _in_words(presence)[first:stop])

    def _product(self, x: Values, name: str) -> Values:
        return np.asarray(x @ self._numbers[f"{name}.weight"].T)

    def _dense(self, x: Values, name: str) -> Values:
        made = self._product(x, name)
        made += self._numbers[f"{name}.bias"]
        return made

    def _bent(self, x: Values, name: str, place: str = "") -> Values:
        """A dense layer and its bend, with a bias for each ``place`` in frequency if there is one."""
        made = self._product(x, name)
        bias = self._numbers[f"{name}.bias"]
        if place:
            bias = bias + self._numbers[place]
        _bend(made.reshape(-1, bias.size), bias.reshape(-1))
        return made

    def _seen(self, inputs: Values) -> Values:
        """Every patch of lines with its neighbours in frequency and time, (frames, patches, seen)."""
        flat = inputs.reshape(len(inputs), -1)
        edge = _PATCH * _FEATURES
        flat = np.pad(flat, ((1, 1), (edge, edge)))
        wide = sliding_window_view(flat, 3 * edge, axis=1)[:, ::edge]
        made = np.empty((len(inputs), _PATCHES, self._numbers["place"].shape[1]), np.float32)
        for first in range(0, len(inputs), _TOGETHER):
            stop = min(first + _TOGETHER, len(inputs))
            patches = np.concatenate([wide[first + k : stop + k] for k in range(3)], axis=-1)
            rows = patches.reshape(-1, patches.shape[-1])
            h = self._bent(self._bent(rows, "see", "place"), "see_again")
            made[first:stop] = h.reshape(made[first:stop].shape)
        return made

    def _core(self, seen: Values) -> Values:
        """All lines together, two frames at a time, through blocks that look both ways."""
        handed = self._bent(seen.reshape(-1, seen.shape[-1]), "hand_on")
        u = self._dense(handed.reshape(len(seen) // 2, -1), "gather")
        v, w = np.empty_like(u), np.empty_like(u)
        for number, dilation in enumerate(_DILATIONS):
            name = f"core.{number}"
            _normalise(u, self._numbers[f"{name}.scale"], v)
            wide = self._bent(v, f"{name}.into")
            taps = self._numbers[f"{name}.over_time.weight"][:, 0].T
            bias = self._numbers[f"{name}.over_time.bias"]
            _bend_over_time(wide, np.ascontiguousarray(taps), bias, dilation, w)
            u += self._dense(w, f"{name}.out")
        return u

    def _decoded(self, seen: Values, core: Values, first: int, stop: int) -> tuple[Values, Values]:
        passed = self._numbers["hand_on.bias"].shape[0]
        gains = np.empty((stop - first, _LINES), np.float32)
        taps = np.empty((stop - first, _SINGLE, 2, _TAPS), np.float32)
        pairs = core[first // 2 : (stop + 1) // 2]
        spread = self._bent(pairs, "spread").reshape(-1, _PATCHES, passed)[first % 2 :]
        for some in range(first, stop, _TOGETHER):
            end = min(some + _TOGETHER, stop)
            both = np.concatenate([seen[some:end], spread[some - first : end - first]], axis=-1)
            q = self._bent(both.reshape(-1, both.shape[-1]), "decode")
            q = self._bent(q, "decode_again", "place_out")
            z = self._dense(q, "filters").reshape(end - some, _PADDED, 1 + 2 * _TAPS)
            here = slice(some - first, end - first)
            gains[here] = _sigmoid(z[:, :_LINES, 0])
            taps[here] = z[:, :_SINGLE, 1:].reshape(end - some, _SINGLE, 2, _TAPS)
        return gains, taps


@kernel
def _bend(x: Values, bias: Values) -> None:
    """Add ``bias`` to each row and turn what is below zero down to a tenth, in place."""
    for t in range(x.shape[0]):
        row = x[t]
        for k in range(row.shape[0]):
            v = row[k] + bias[k]
            row[k] = max(v, np.float32(0.1) * v)


@summing_kernel
def _normalise(u: Values, scale: Values, out: Values) -> None:
    """Each row at unit power, times ``scale``."""
    width = u.shape[1]
    for t in range(u.shape[0]):
        row, made = u[t], out[t]
        power = np.float32(0.0)
        for k in range(width):
            power += row[k] * row[k]
        factor = np.float32(1.0) / np.sqrt(power / np.float32(width) + np.float32(1e-3))
        for k in range(width):
            made[k] = row[k] * factor * scale[k]


@kernel
def _bend_over_time(v: Values, taps: Values, bias: Values, dilation: int, out: Values) -> None:
    """Each column filtered along time, ``taps`` (taps, columns), silence beyond the ends; bent."""
    frames, width = v.shape
    reach = taps.shape[0] // 2
    for t in range(frames):
        made = out[t]
        for k in range(width):
            made[k] = bias[k]
        for number in range(taps.shape[0]):
            at = t + (number - reach) * dilation
            if 0 <= at < frames:
                row, tap = v[at], taps[number]
                for k in range(width):
                    made[k] += row[k] * tap[k]
        for k in range(width):
            made[k] = max(made[k], np.float32(0.1) * made[k])


@kernel
def _filter(
    spectra: Values, first: int, taps: Values, gains: Values, words: Values, out: Values
) -> None:
    """The voice of frames from ``first`` on; spectra (frames, bins, 2) with their context."""
    single = min(taps.shape[1], spectra.shape[1])
    for t in range(out.shape[0]):
        for k in range(out.shape[1]):
            now = spectra[first + t, k]
            real, imag = now[0], now[1]
            if k < single:
                tap = taps[t, k]
                for n in range(_TAPS):
                    at = first + t + n - _TAPS // 2
                    if 0 <= at < spectra.shape[0]:
                        a, b = spectra[at, k, 0], spectra[at, k, 1]
                        real += a * tap[0, n] - b * tap[1, n]
                        imag += a * tap[1, n] + b * tap[0, n]
            # Above 24 kHz nothing was trained; the highest band goes on.
            gain = gains[t, min(k, gains.shape[1] - 1)]
            share = (gain - np.float32(_NO_VOICE_GAIN)) / np.float32(_VOICE_GAIN - _NO_VOICE_GAIN)
            share = min(np.float32(1.0), max(np.float32(0.0), share))
            rising = share * share * (np.float32(3.0) - np.float32(2.0) * share)
            gain *= max(rising, words[t])
            out[t, k, 0] = real * gain
            out[t, k, 1] = imag * gain


def filtered(spectra: Spectra, filters: Filters, first: int = 0) -> Spectra:
    """The voice's spectra: five frames of each single bin combined, times the gain of every bin.

    ``filters`` are for frames from ``first`` on; the answer has as many frames as they have.
    """
    frames, bins = len(filters.gains), spectra.shape[1]
    gains = np.empty((frames, BINS), np.float32)
    gains[:, :_SINGLE] = filters.gains[:, :_SINGLE]
    gains[:, _SINGLE:] = filters.gains[:, _SINGLE - 1 :] @ _SPREAD
    voice = np.empty((frames, bins), np.complex64)
    parts = (
        x.view(np.float32).reshape(*x.shape, 2) for x in (np.ascontiguousarray(spectra), voice)
    )
    sound, out = parts
    _filter(sound, first, filters.taps, gains, filters.words, out)
    return voice


def _rising(x: Values, low: float, high: float) -> Values:
    """From 0 at ``low`` smoothly to 1 at ``high``."""
    share = np.clip((x - np.float32(low)) / np.float32(high - low), 0, 1)
    return np.asarray(share * share * (3 - 2 * share), np.float32)


def _in_words(presence: Values) -> Values:
    """1 in words and close to them, 0 in pauses."""
    near = sliding_window_view(np.pad(presence, _PAUSE_FRAMES), 2 * _PAUSE_FRAMES + 1).max(axis=1)
    return _rising(near, _PAUSE, _WORD)


def _fitted(rows: NDArray[Any]) -> NDArray[Any]:
    """The lowest ``BINS`` of each row, silence above a lower rate's last."""
    missing = BINS - rows.shape[1]
    return np.pad(rows, ((0, 0), (0, missing))) if missing > 0 else rows[:, :BINS]


def _lines(power: NDArray[Any]) -> Values:
    return np.concatenate([power[:, :_SINGLE], power[:, _SINGLE:] @ _MEAN], axis=1)


def _features(spectra: Spectra, tone: NDArray[Any], level: float) -> Values:
    """Inputs, shape (frames, padded lines, 4)."""
    scale = np.float32(1.0 / np.sqrt(level))
    spectra = spectra * scale
    power = spectra.real**2 + spectra.imag**2
    lines = _lines(power)
    room = _lines(np.asarray(tone * scale * scale, np.float32))
    made = np.zeros((len(spectra), _PADDED, _FEATURES), np.float32)
    made[:, :_LINES, 0] = np.clip(np.log10((lines + 1e-12) / (room + 1e-12)), -1.5, 5)
    made[:, :_LINES, 1] = np.clip(np.log10(lines + 1e-6) + 2, -4, 4)
    now = spectra[:, :_SINGLE]
    before = np.concatenate([now[:1], now[:-1]])
    product = now * before.conj()
    size = 1 / np.sqrt(power[:, :_SINGLE] + 1e-20)
    product *= size * np.concatenate([size[:1], size[:-1]])
    # From frame to frame a bin turns by a third of its number, exactly.
    turn = np.exp(-2j * np.pi * (np.arange(_SINGLE) % 3) / 3).astype(np.complex64)
    product *= turn
    made[:, :_SINGLE, 2] = product.real
    made[:, :_SINGLE, 3] = product.imag
    return made


def _sigmoid(x: Values) -> Values:
    return np.asarray(1 / (1 + np.exp(-x)), np.float32)
