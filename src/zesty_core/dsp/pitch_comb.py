"""Takes noise from between the partials of a voice, by the likeness of one pitch period to the next.

A frame is too short to tell a low voice's partials apart, and a longer one would smear its sounds. But
while a vowel is held, what was heard one period earlier and later is nearly the same voice over other
noise. A share ``w`` of their mean is mixed in, told for each frame and band from the power of the
difference between that mean and the sound itself: of it the noise's part is known, all else is the
voice's own change. ``w = noise / difference`` leaves the least mean square error (Wiener's rule for two
observations of one signal; in speech the idea is the comb filter of Lim, Oppenheim & Braida 1978).
So a period found wrong, a consonant and a clean recording mix nothing in.

Done up to 7.5 kHz, where voices have partials, at a rate of its own: the frames' lower bins are frames
of the same sound at a lower rate.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.pitch import PitchFinder, peak_offset
from zesty_core.dsp.spectral import (
    OVERLAP,
    OVERLAP_SUM,
    add_power,
    hann,
    overlap_add,
    window_samples,
)
from zesty_core.dsp.transforms import rows_of, spectra_of
from zesty_core.runtime.kernel import kernel, summing_kernel

Frames = NDArray[np.float32]
Spectra = NDArray[np.complex64]
Signal = NDArray[np.float32]
Counts = NDArray[np.int64]

#: Samples of a frame at the rates this works at: for the mixture, and to look for the period.
_FRAME, _COARSE_FRAME = 480, 96
#: The partials that tell the period: none below the first edge, all from the second to the third.
_TELLING_HZ = (55.0, 80.0, 1200.0, 1440.0)
#: The noise is taken for no quieter than this beside its loudest bin when the sound is weighed by it.
_QUIETEST = 1e-4
#: A frame that stands so far over the noise is clear: its share would be next to nothing.
_CLEAR_DB = (26.0, 32.0)
#: How alike the sound must be one period away, for anything and for all to be mixed in.
_ALIKE = (0.3, 0.4)
#: A bit less than the rule says, since a difference over few bins is uncertain.
_SHARE = np.float32(0.6)
#: Where nothing but noise differs no share leaves less than a third of it.
_LEAST_LEFT = 1.0 / 3.0
#: Bins on either side that the noise and the difference are estimated from.
_HALF_BAND = 6
#: Samples on either side of the period at which the sound may be most alike; steps between two samples,
#: and samples for the estimate of what lies between them.
_SEARCH, _STEPS, _TAPS = 3, 32, 8
#: The share ends with the band.
_TAPER = 0.1
_TOGETHER = 64


def _between() -> Frames:
    """Weights of ``_TAPS`` samples for what lies a step further between the middle two, by steps.

    Sinc under a Kaiser window: within 0.1 dB up to 5 kHz.
    """
    offsets = np.arange(_TAPS) - (_TAPS // 2 - 1)
    places = offsets - np.arange(_STEPS + 1)[:, None] / _STEPS
    within = np.maximum(1.0 - (places / (_TAPS / 2)) ** 2, 0.0)
    weights = np.sinc(places) * np.i0(4.0 * np.sqrt(within)) * (within > 0.0)
    return np.asarray(weights / weights.sum(axis=1, keepdims=True), dtype=np.float32)


@summing_kernel
def _shifts(
    sound: Signal,
    begin: int,
    hop: int,
    frames: Counts,
    lags: Signal,
    shape: Signal,
    whole: Counts,
    steps: Counts,
) -> None:
    """How far earlier (first) and later (second) each frame is most like itself.

    In whole samples, and steps beyond; ``shape`` weighs the samples.
    """
    size = shape.shape[0]
    own, alike = np.empty(size, np.float32), np.empty(2 * _SEARCH + 1, np.float32)
    for i in range(frames.shape[0]):
        start = begin + frames[i] * hop
        for n in range(size):
            own[n] = sound[start + n] * shape[n]
        lag = int(np.round(lags[i]))
        for side in range(2):
            nearest, at = start + (2 * side - 1) * lag - _SEARCH, 0
            for d in range(alike.shape[0]):
                other, total = sound[nearest + d : nearest + d + size], np.float32(0.0)
                for n in range(size):
                    total += own[n] * other[n]
                alike[d] = total
                if total > alike[at]:
                    at = d
            beyond = 0
            if 0 < at < alike.shape[0] - 1:
                between = peak_offset(alike[at - 1], alike[at], alike[at + 1])
                beyond = int(np.round(between * np.float32(_STEPS)))
            before = 1 if beyond < 0 else 0
            whole[i, side] = nearest + at - before - start
            steps[i, side] = beyond + before * _STEPS


@kernel
def _changes(
    sound: Signal,
    begin: int,
    hop: int,
    frames: Counts,
    shifts: tuple[Counts, Counts],
    weights: Frames,
    window: Signal,
    out: Frames,
) -> None:
    """What the mean of earlier and later differs by from each frame, windowed."""
    half, size = np.float32(0.5), window.shape[0]
    whole, steps = shifts
    first_tap = _TAPS // 2 - 1
    for i in range(frames.shape[0]):
        start, into = begin + frames[i] * hop, out[i]
        own = sound[start : start + size]
        at = start + whole[i, 0] - first_tap
        x, a = sound[at : at + size + _TAPS], weights[steps[i, 0]]
        at = start + whole[i, 1] - first_tap
        y, b = sound[at : at + size + _TAPS], weights[steps[i, 1]]
        for n in range(size):
            earlier = ((a[0] * x[n] + a[1] * x[n + 1]) + (a[2] * x[n + 2] + a[3] * x[n + 3])) + (
                (a[4] * x[n + 4] + a[5] * x[n + 5]) + (a[6] * x[n + 6] + a[7] * x[n + 7])
            )
            later = ((b[0] * y[n] + b[1] * y[n + 1]) + (b[2] * y[n + 2] + b[3] * y[n + 3])) + (
                (b[4] * y[n + 4] + b[5] * y[n + 5]) + (b[6] * y[n + 6] + b[7] * y[n + 7])
            )
            into[n] = window[n] * (half * (earlier + later) - own[n])


@kernel
def _shares(
    gains: Frames,
    over_noise: Frames,
    frames: Counts,
    power: Frames,
    trust: Signal,
    most: Signal,
    out: Frames,
) -> None:
    """Share of every frame and bin: of the difference about it, what is left of the noise there.

    In every bin at most ``most``.
    Both in units of the noise (``over_noise`` is one over its power): no loud bin decides for others.
    """
    bins, tiny = out.shape[1], 1e-20
    # Running sums, with nothing beyond the edges: boxes are narrower there.
    left, whole = np.zeros(bins + 2 * _HALF_BAND + 1), np.zeros(bins + 2 * _HALF_BAND + 1)
    for i in range(frames.shape[0]):
        t = frames[i]
        gain, scale = gains[t], over_noise[t % over_noise.shape[0]]
        powers, row = power[i], out[i]
        a, b = 0.0, 0.0
        for k in range(bins):
            a += gain[k] * gain[k]
            b += powers[k] * scale[k]
            left[k + _HALF_BAND + 1], whole[k + _HALF_BAND + 1] = a, b
        left[bins + _HALF_BAND + 1 :], whole[bins + _HALF_BAND + 1 :] = a, b
        from_left, from_whole = left[:bins], whole[:bins]
        to_left, to_whole = left[2 * _HALF_BAND + 1 :], whole[2 * _HALF_BAND + 1 :]
        for k in range(bins):
            ratio = (to_left[k] - from_left[k]) / (to_whole[k] - from_whole[k] + tiny)
            share = _SHARE * np.float32(ratio)
            row[k] = trust[t] * (share if share < most[k] else most[k])


@kernel
def _add(spectra: Frames, frames: Counts, shares: Frames, changes: Frames) -> None:
    """Add the share of its change to each frame; rows are interleaved."""
    for i in range(frames.shape[0]):
        into, share, change = spectra[frames[i]], shares[i], changes[i]
        for k in range(share.shape[0]):
            into[2 * k] += share[k] * change[2 * k]
            into[2 * k + 1] += share[k] * change[2 * k + 1]


def _most_share(floor: NDArray[np.floating]) -> NDArray[np.float64]:
    """Share ``w`` that leaves as much noise as the floor: ``(1 - w)^2 + w^2 / 2`` of its power."""
    left = np.maximum(np.square(floor, dtype=np.float64), _LEAST_LEFT)
    return np.asarray((2.0 - np.sqrt(np.maximum(6.0 * left - 2.0, 0.0))) / 3.0)


def _rise(values: Signal, low: float, high: float) -> Signal:
    """0 up to ``low``, 1 from ``high`` on."""
    return np.asarray(np.clip((values - low) / (high - low), 0.0, 1.0), dtype=np.float32)


class PitchComb:
    """Mixes pitch periods in frames of ``dsp.spectral`` whose noise has been turned down already.

    ``floor`` is the least gain of every bin: no more than it asks for is taken here, and nothing where
    nothing is asked for.
    """

    def __init__(self, sample_rate_hz: int, floor: Signal) -> None:
        size = window_samples(sample_rate_hz)
        bin_hz = sample_rate_hz / size
        self._size = min(_FRAME, size)
        self._hop, self._bins = self._size // OVERLAP, self._size // 2 + 1
        self._window, self._weights = hann(self._size), _between()
        self._finder = PitchFinder(_COARSE_FRAME * bin_hz)
        coarse_hz = np.arange(_COARSE_FRAME // 2 + 1) * bin_hz
        telling = np.interp(coarse_hz, _TELLING_HZ, (0.0, 1.0, 1.0, 0.0))
        self._telling = telling.astype(np.float32)
        # At a rate so low that these are all its bins the sound has no edge there.
        to_edge = np.linspace(1.0 / _TAPER, 0.0 if self._size < size else 1.0, self._bins)
        most = np.minimum(to_edge, 1.0) * _most_share(floor[: self._bins])
        self._most = most.astype(np.float32)
        self._finer = self._size / _COARSE_FRAME
        self._pad = math.ceil(self._finer * (self._finder.most_lag + 1)) + _SEARCH + _TAPS
        #: Frames whose sound a period and what looks for it want on either side.
        self.reach_frames = OVERLAP + math.ceil(self._pad / self._hop)

    def mix(self, spectra: Spectra, gains: Frames, noise: NDArray[np.floating]) -> None:
        """Mix in place.

        Parameters
        ----------
        spectra : (channels, frames, bins) of the sound with its gains; channels get the same share of
            the same period, so that their image stays.
        gains : (frames, bins) what they were multiplied by.
        noise : (bins,) or (frames, bins) power of the noise before that, mean over channels.
        """
        noise = np.atleast_2d(noise)[:, : self._bins].astype(np.float32)
        coarse = spectra[:, :, : len(self._telling)] * self._even(noise)
        trust = self._trust_in(coarse)
        noisy = np.flatnonzero(trust > 0.0)
        lags, alike = self._periods(coarse.sum(axis=0), noisy)
        trust[noisy] *= _rise(alike, *_ALIKE)
        voiced, lags = noisy[trust[noisy] > 0.0], lags[trust[noisy] > 0.0]
        if not len(voiced):
            return
        over_noise = np.float32(1.0) / noise
        sounds = [self._sound(channel) for channel in spectra]
        middle = sounds[0] if len(sounds) == 1 else np.sum(sounds, axis=0)
        for first in range(0, len(voiced), _TOGETHER):
            some = voiced[first : first + _TOGETHER]
            shifts = self._shifts_of(middle, some, lags[first : first + _TOGETHER])
            changes = [self._changes_of(sound, some, shifts) for sound in sounds]
            power = np.zeros((len(some), self._bins), np.float32)
            for change in changes:
                add_power(change, 1.0 / len(changes), power)
            shares = np.empty_like(power)
            _shares(gains, over_noise, some, power, trust, self._most, shares)
            for channel, change in zip(spectra, changes, strict=True):
                _add(channel.view(np.float32), some, shares, change)

    def _even(self, noise: Frames) -> Frames:
        """Weights of the bins that tell the period, under which the noise is white.

        So no rumble is taken for alike, and a voice tells by what stands out of the noise.
        """
        here = noise[:, : len(self._telling)] * (self._telling > 0.0)
        least = here.max(axis=1, keepdims=True) * np.float32(_QUIETEST)
        weights: Frames = self._telling / np.sqrt(np.maximum(here, least))
        return weights

    def _trust_in(self, coarse: Spectra) -> Signal:
        """0 for frames so far over the noise that none is heard in them, 1 for those that are not."""
        power = (np.square(coarse.real) + np.square(coarse.imag)).sum(axis=2).mean(axis=0)
        snr_db = 10.0 * np.log10(power / np.square(self._telling).sum() + 1e-12)
        return np.float32(1.0) - _rise(snr_db, *_CLEAR_DB)

    def _periods(self, coarse: Spectra, of: Counts) -> tuple[Signal, Signal]:
        """Period of these frames at the rate of ``self._sound``, and how alike the sound is then."""
        hop, frames, pad = _COARSE_FRAME // OVERLAP, len(coarse), self._finder.reach
        sound = np.zeros((frames + OVERLAP - 1) * hop + 2 * pad, np.float32)
        overlap_add(rows_of(coarse, _COARSE_FRAME), hann(_COARSE_FRAME), 0, hop, sound[pad:])
        lags, alike = self._finder.at(sound, pad + _COARSE_FRAME // 2 + hop * of)
        return lags * np.float32(self._finer), alike

    def _sound(self, spectra: Spectra) -> Signal:
        """The sound of a channel's lower bins, with nothing on either side."""
        frames = len(spectra)
        sound = np.zeros((frames + OVERLAP - 1) * self._hop + 2 * self._pad, np.float32)
        shape = self._window / np.float32(OVERLAP_SUM)
        for first in range(0, frames, _TOGETHER):
            rows = rows_of(spectra[first : first + _TOGETHER, : self._bins], self._size)
            overlap_add(rows, shape, first, self._hop, sound[self._pad :])
        return sound

    def _shifts_of(self, sound: Signal, frames: Counts, lags: Signal) -> tuple[Counts, Counts]:
        """Whole samples and steps from each frame to what is most like it, earlier and later."""
        whole, steps = np.empty((len(frames), 2), np.int64), np.empty((len(frames), 2), np.int64)
        shape = self._window * self._window
        _shifts(sound, self._pad, self._hop, frames, lags, shape, whole, steps)
        return whole, steps

    def _changes_of(self, sound: Signal, frames: Counts, shifts: tuple[Counts, Counts]) -> Frames:
        """What earlier and later differ by from a channel's frames: spectra, interleaved."""
        rows = np.empty((len(frames), self._size), np.float32)
        _changes(sound, self._pad, self._hop, frames, shifts, self._weights, self._window, rows)
        spectra: Frames = spectra_of(rows).view(np.float32)
        return spectra
