"""An average spectrum as a curve to draw: the level around each of some hundred frequencies."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.measures.spectrum import Spectrum, SpectrumMeter

_LOWEST_HZ, _HIGHEST_HZ, _POINTS = 30.0, 20_000.0, 180
#: A point gathers so much around it.
_POINT_OCT = 1.0 / 9.0


def curve_frequencies(sample_rate_hz: int) -> NDArray[np.float64]:
    """Frequencies of the points, evenly spaced by ear.

    Parameters
    ----------
    sample_rate_hz : int
        Sample rate in Hz.

    Returns
    -------
    freqs_hz : array
        Spaced by equal ratios, from 30 Hz to 20 kHz or just under half the rate.
    """
    return np.geomspace(_LOWEST_HZ, min(_HIGHEST_HZ, 0.49 * sample_rate_hz), _POINTS)


def curve_of_sound(
    sound: Block, sample_rate_hz: int, freqs_hz: NDArray[np.float64]
) -> list[float] | None:
    """Level in dBFS around each frequency; None for no sound.

    Parameters
    ----------
    sound : array, shape (channels, samples)
        A stretch of sound.
    sample_rate_hz : int
        Sample rate in Hz.
    freqs_hz : array
        Where the curve is wanted.

    Returns
    -------
    levels_dbfs : list of float or None
        One for each frequency.
    """
    if sound.shape[1] == 0:
        return None
    meter = SpectrumMeter(SignalInfo(sample_rate_hz, *sound.shape))
    meter.push(sound)
    spectrum = meter.finish()
    return None if spectrum is None else curve_of(spectrum, freqs_hz)


def curve_of(spectrum: Spectrum, freqs_hz: NDArray[np.float64]) -> list[float]:
    """Level in dBFS around each frequency."""
    half = 2.0 ** (_POINT_OCT / 2.0)
    below = np.concatenate([[0.0], np.cumsum(spectrum.power)])
    edges_hz = (np.arange(len(below)) - 0.5) * spectrum.bin_hz
    # Where bins lie further apart than points, each point has at least a bin.
    width = np.maximum(freqs_hz * (half - 1.0 / half), spectrum.bin_hz)
    power = np.interp(freqs_hz + width / 2, edges_hz, below) - np.interp(
        freqs_hz - width / 2, edges_hz, below
    )
    return [round(float(v), 2) for v in 10.0 * np.log10(np.maximum(power, 1e-15))]
