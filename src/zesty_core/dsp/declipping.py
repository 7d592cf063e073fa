"""Crests that were cut off, rebuilt so that few partials explain the whole.

Consistent sparse declipping, analysis form (A-SPADE): Kitic, Bertin & Gribonval, "Sparsity and
cosparsity for audio declipping: a flexible non-convex approach", LVA/ICA 2015; survey: Zaviska, Rajmic,
Ozerov & Rencker, IEEE J. Sel. Top. Signal Process. 15(1), 2021. Samples that were not cut off stay as
they are, and those that were end no lower than the level at which they were.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.transforms import rows_of, spectra_of

Samples = NDArray[np.float64]

#: Frames of 43 ms at 48 kHz hold several periods of a voice; a spectrum has twice as many values.
FRAME_SAMPLES = 2048
_REDUNDANCY = 2
#: Partials that are let in with each round, rounds, and the misfit at which it is done.
_MORE_PARTIALS, _ROUNDS, _CLOSE = 2, 100, 0.01
_NOTHING = 1e-12


def rebuilt(
    frame: Samples, window: Samples, low: NDArray[np.bool_], high: NDArray[np.bool_]
) -> Samples:
    """One frame, windowed, with its cut-off samples rebuilt.

    Parameters
    ----------
    frame : array, shape (samples,)
        As it came.
    window : array, shape (samples,)
        What it is weighted with.
    low, high : array of bool, shape (samples,)
        Samples that were cut off at the bottom and at the top.

    Returns
    -------
    windowed : array, shape (samples,)
        ``frame * window`` where nothing was cut off.
    """
    size = _REDUNDANCY * len(frame)
    scale = np.sqrt(size)
    given = frame * window
    sound = given.copy()
    bins = size // 2 + 1
    apart = np.zeros(bins, np.complex128)
    padded = np.zeros((1, size))
    for count in range(_MORE_PARTIALS, _MORE_PARTIALS * (_ROUNDS + 1), _MORE_PARTIALS):
        padded[0, : len(frame)] = sound
        spectrum = spectra_of(padded)[0] / scale + apart
        magnitudes = np.abs(spectrum)
        least = np.partition(magnitudes, bins - min(count, bins))[bins - min(count, bins)]
        sparse = np.where(magnitudes >= least, spectrum, 0.0)
        back = rows_of(((sparse - apart) * scale)[None], size)[0, : len(frame)]
        sound = np.where(
            high, np.maximum(back, given), np.where(low, np.minimum(back, given), given)
        )
        padded[0, : len(frame)] = sound
        analysed = spectra_of(padded)[0] / scale
        misfit = np.sqrt(2.0 * float(np.square(np.abs(analysed - sparse)).sum()))
        if misfit < _CLOSE * np.sqrt(float(np.square(sound).sum()) + _NOTHING):
            break
        apart += analysed - sparse
    return sound
