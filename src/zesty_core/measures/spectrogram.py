"""Levels over time and frequency, for looking at."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.transforms import spectra_of
from zesty_core.foundation.signal import Block, Source

#: Long enough to tell the harmonics of a low voice apart, short enough to see its syllables.
_FRAME_S = 0.043
_LOWEST_HZ = 40.0
_HIGHEST_HZ = 20_000.0
#: Frames averaged in a column that covers more time than they do.
_FRAMES_PER_COLUMN = 3
_LOWEST_DB = -120.0


@dataclass(frozen=True)
class Spectrogram:
    """``levels_dbfs`` is (rows, columns), lowest frequency first; a full-scale sine reads 0 dBFS."""

    freqs_hz: NDArray[np.float64]
    levels_dbfs: NDArray[np.float32]


def spectrogram(source: Source, start: int, stop: int, columns: int, rows: int) -> Spectrogram:
    """Samples ``start..stop`` of ``source`` in ``columns`` of time and ``rows`` of log frequency.

    Channels are averaged in power. Hann window; of a column longer than three frames only three
    frames spread over it are looked at, so that an hour costs no more than a minute.
    """
    rate = source.info.sample_rate_hz
    frame = int(2 ** round(np.log2(_FRAME_S * rate)))
    window = np.hanning(frame + 1)[:-1].astype(np.float32)
    freqs_hz = np.geomspace(_LOWEST_HZ, min(_HIGHEST_HZ, rate / 2), rows)
    first, last = _bins_of_rows(freqs_hz, frame, rate)
    step = (stop - start) / columns
    places = np.clip(
        np.ceil(step / frame), 1, _FRAMES_PER_COLUMN
    )  # one frame where columns are narrow
    offsets = (np.arange(int(places)) + 0.5) / places
    levels = np.empty((rows, columns), np.float32)
    for column in range(columns):
        centres = start + (column + offsets) * step
        frames = np.stack([_frame(source, int(c) - frame // 2, frame) for c in centres])
        spectra = np.abs(spectra_of(frames * window)) ** 2
        power = spectra.mean(axis=(0, 1)) * (2.0 / window.sum()) ** 2
        peaks = np.maximum.reduceat(np.append(power, 0.0), np.stack([first, last], 1).ravel())[::2]
        levels[:, column] = 10.0 * np.log10(np.maximum(peaks, 10.0 ** (_LOWEST_DB / 10.0)))
    return Spectrogram(freqs_hz, levels)


def _bins_of_rows(
    freqs_hz: NDArray[np.float64], frame: int, rate: int
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """First bin of each row and the one after its last; at least one."""
    ratio = np.sqrt(freqs_hz[1] / freqs_hz[0])
    first = np.round(freqs_hz / ratio * frame / rate).astype(np.int64)
    last = np.maximum(first + 1, np.round(freqs_hz * ratio * frame / rate).astype(np.int64))
    most = frame // 2 + 1
    return np.minimum(first, most - 1), np.minimum(last, most)


def _frame(source: Source, at: int, length: int) -> Block:
    """``length`` samples from ``at``; silence outside of the signal."""
    info = source.info
    out = np.zeros((info.channels, length), np.float32)
    start, stop = max(0, at), min(info.length_samples, at + length)
    if stop > start:
        out[:, start - at : stop - at] = source.read(start, stop)
    return out
