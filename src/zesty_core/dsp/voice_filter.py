"""Noise reduction by the voice network: what is no voice goes down by the depth, exactly."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.noise_model import DriftTracker
from zesty_core.dsp.spectral import Shaping, window_samples
from zesty_core.dsp.voice_network import LEVEL_BINS, REACH_FRAMES, Filters, VoiceNetwork, filtered

#: Loud frames of a voice, as training counts them, lie 3.9 dB over its level (median of 44 pieces of
#: the training's material).
_LOUD_OVER_VOICE = 10**0.39
#: Frames in a chunk; long against the network's reach.
CHUNK_FRAMES = 1152
#: Even, as frames are looked at in pairs.
CONTEXT_FRAMES = 2 * -(-REACH_FRAMES // 2)


def loud_power(voice_level_dbfs: float, sample_rate_hz: int) -> float:
    """Mean power per bin of loud frames of a voice of this level."""
    size = window_samples(sample_rate_hz)
    # Parseval for a Hann window (mean square 0.375), one side of the spectrum.
    whole = 0.375 * size * size / 2 * 10 ** (voice_level_dbfs / 10)
    return _LOUD_OVER_VOICE * whole / (LEVEL_BINS.stop - LEVEL_BINS.start)


class NoiseRule:
    """Leaves the gains at one and hands the noise on, which may drift."""

    def __init__(
        self, noise: NDArray[np.float64], lowest: NDArray[np.float64], tracker: DriftTracker | None
    ) -> None:
        self._noise, self._lowest, self._tracker = noise, lowest, tracker

    def __call__(self, power: NDArray[np.float32], first_frame: int) -> Shaping:
        """As :data:`zesty_core.dsp.spectral.GainRule`."""
        noise: NDArray[np.floating] = self._noise
        if self._tracker:
            snr = np.divide(power, noise.astype(np.float32), dtype=np.float32)
            noise = noise * self._tracker.scale(snr, self._lowest)
        return Shaping(np.ones_like(power), noise)


class VoiceFilter:
    """The voice as the network finds it, over the rest at its depth.

    Parameters
    ----------
    floor : (bins,) factor on what is no voice.
    level : see :func:`loud_power`.
    """

    reach_frames = CONTEXT_FRAMES

    def __init__(
        self, floor: NDArray[np.float32], level: float, network: VoiceNetwork | None = None
    ) -> None:
        self._floor, self._level = floor, level
        self._network = network or VoiceNetwork()

    def mix(
        self,
        spectra: NDArray[np.complex64],
        gains: NDArray[np.float32],
        noise: NDArray[np.floating],
    ) -> None:
        """Replace the spectra (channels, frames, bins), in place but for the context at both ends.

        Channels share one filter.
        """
        own = slice(CONTEXT_FRAMES, spectra.shape[1] - CONTEXT_FRAMES)
        found = [self._network.filters(channel, noise, self._level, own) for channel in spectra]
        shared = found[0]
        if len(found) > 1:
            shared = Filters(
                np.mean([one.gains for one in found], axis=0, dtype=np.float32),
                np.mean([one.taps for one in found], axis=0, dtype=np.float32),
                np.max([one.presence for one in found], axis=0),
                np.max([one.words for one in found], axis=0),
            )
        for channel in spectra:
            voice = filtered(channel, shared, CONTEXT_FRAMES)
            voice -= channel[own]
            voice *= 1 - self._floor
            channel[own] += voice
