"""Noise reduction by the voice network: what is no voice goes down by the depth, exactly."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.spectral import Mixer, window_samples
from zesty_core.dsp.voice_network import LEVEL_BINS, REACH_FRAMES, Filters, VoiceNetwork, filtered
from zesty_core.runtime.kernel import kernel

#: Loud frames of a voice, as training counts them, lie 3.9 dB over its level (median of 44 pieces of
#: the training's material).
_LOUD_OVER_VOICE = 10**0.39
#: Frames in a chunk; long against the network's reach.
CHUNK_FRAMES = 1152
#: Even, as frames are looked at in pairs.
CONTEXT_FRAMES = 2 * -(-REACH_FRAMES // 2)
#: Share of statistics in words. From 0.3 to 0.5 wide-band PESQ stays the same; extended STOI falls.
_STATISTICS = 0.3


def loud_power(voice_level_dbfs: float, sample_rate_hz: int) -> float:
    """Mean power per bin of loud frames of a voice of this level."""
    size = window_samples(sample_rate_hz)
    # Parseval for a Hann window (mean square 0.375), one side of the spectrum.
    whole = 0.375 * size * size / 2 * 10 ** (voice_level_dbfs / 10)
    return _LOUD_OVER_VOICE * whole / (LEVEL_BINS.stop - LEVEL_BINS.start)


class VoiceFilter:
    """The voice as the network and statistics find it, over the rest at its depth.

    In words the two are mixed: they err in different places, and recorded voices come out closer to
    the clean one than by either alone (``docs/voice-model.md``). In pauses the network stands alone, so
    that what stays of the room is the depth exactly.

    Parameters
    ----------
    floor : (bins,) factor on what is no voice.
    level : see :func:`loud_power`.
    comb : what statistics do with the voice's pitch.
    """

    reach_frames = CONTEXT_FRAMES

    def __init__(
        self,
        floor: NDArray[np.float32],
        level: float,
        comb: Mixer,
        network: VoiceNetwork | None = None,
    ) -> None:
        self._floor, self._level, self._comb = floor, level, comb
        self._network = network or VoiceNetwork()

    def mix(
        self,
        spectra: NDArray[np.complex64],
        gains: NDArray[np.float32],
        noise: NDArray[np.floating],
    ) -> None:
        """Replace the spectra (channels, frames, bins), in place but for the context at both ends.

        They come with the gains of statistics, which never fall below the floor, and can be had
        without. Channels share one filter.
        """
        own = slice(CONTEXT_FRAMES, spectra.shape[1] - CONTEXT_FRAMES)
        sound = spectra / gains
        found = [self._network.filters(channel, noise, self._level, own) for channel in sound]
        shared = found[0]
        if len(found) > 1:
            shared = Filters(
                np.mean([one.gains for one in found], axis=0, dtype=np.float32),
                np.mean([one.taps for one in found], axis=0, dtype=np.float32),
                np.max([one.presence for one in found], axis=0),
                np.max([one.words for one in found], axis=0),
            )
        self._comb.mix(spectra, gains, noise)
        for channel, out in zip(sound, spectra, strict=True):
            voice = filtered(channel, shared, CONTEXT_FRAMES)
            _mix(_parts(channel[own]), _parts(voice), self._floor, shared.words, _parts(out[own]))


def _parts(spectra: NDArray[np.complex64]) -> NDArray[np.float32]:
    """Real and imaginary parts, (frames, bins, 2)."""
    return spectra.view(np.float32).reshape(*spectra.shape, 2)


@kernel
def _mix(
    sound: NDArray[np.float32],
    voice: NDArray[np.float32],
    floor: NDArray[np.float32],
    words: NDArray[np.float32],
    out: NDArray[np.float32],
) -> None:
    """Into ``out``, which holds what statistics made: in words a share of it stays."""
    for t in range(out.shape[0]):
        share = np.float32(_STATISTICS) * words[t]
        for k in range(out.shape[1]):
            for part in range(2):
                low = sound[t, k, part]
                model = voice[t, k, part] + floor[k] * (low - voice[t, k, part])
                out[t, k, part] = model + share * (out[t, k, part] - model)
