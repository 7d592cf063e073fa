"""What the page shows of a stretch of sound: waveform, spectrogram, figures."""

from __future__ import annotations

import base64
from pathlib import Path
from typing import Any

import numpy as np

from zesty_core.compare.time_series import time_series_of
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.signal import BLOCK_SAMPLES, SignalInfo, Source
from zesty_core.measures.full_meter import FullMeter
from zesty_core.measures.overview import (
    BIN_SAMPLES,
    BrokenOverview,
    OverviewSlice,
    fine_overview,
    make_overview,
    read_overview,
)
from zesty_core.measures.spectrogram import spectrogram
from zesty_core.runtime.denormals import flushing_to_zero
from zesty_server.recordings.kept_overview import store_overview

MOST_BINS = 4_000
#: Lowest level a spectrogram shows; its values count half decibels upwards from here.
SPECTROGRAM_FLOOR_DB = -120.0
_STEPS_PER_DB = 2.0
#: Figures of a longer stretch are those of the whole recording, measured once.
LONGEST_FIGURES_S = 1_200.0


def overview_of(
    source: Source, path: Path, start_s: float, end_s: float | None, bins: int
) -> dict[str, Any]:
    """Waveform of a stretch in at most ``bins`` bins, down to single samples, as plain lists."""
    rate = source.info.sample_rate_hz
    start, stop = _stretch(source.info, start_s, end_s)
    bins = max(1, min(bins, MOST_BINS))
    if stop - start < bins * BIN_SAMPLES / 4:
        part = fine_overview(source, start, stop, bins)
    elif not path.exists():
        raise BadInput("The waveform is not drawn yet; try again in a moment")
    else:
        part = _kept_overview(source, path, start, stop, bins)
    low, high, rms = np.round(part.bins.T.astype(np.float64), 6)
    return {
        "bin_s": part.bin_samples / rate,
        "start_s": part.first_bin * part.bin_samples / rate,
        "low": low.tolist(),
        "high": high.tolist(),
        "rms": rms.tolist(),
    }


def _kept_overview(source: Source, path: Path, start: int, stop: int, bins: int) -> OverviewSlice:
    """The kept waveform; one that is damaged is drawn anew."""
    length = source.info.length_samples
    try:
        return read_overview(path, length, start, stop, bins)
    except BrokenOverview:
        store_overview(path, make_overview(source))
        return read_overview(path, length, start, stop, bins)


def is_whole(info: SignalInfo, start_s: float, end_s: float | None) -> bool:
    """Whether a stretch is all there is."""
    return _stretch(info, start_s, end_s) == (0, info.length_samples)


def spectrogram_of(
    source: Source, start_s: float, end_s: float | None, columns: int, rows: int
) -> dict[str, Any]:
    """Spectrogram of a stretch; levels as bytes, one for each half decibel above the floor."""
    start, stop = _stretch(source.info, start_s, end_s)
    found = spectrogram(source, start, stop, columns, rows)
    steps = (found.levels_dbfs - SPECTROGRAM_FLOOR_DB) * _STEPS_PER_DB
    values = np.clip(np.round(steps), 0, 255).astype(np.uint8)
    return {
        "start_s": start / source.info.sample_rate_hz,
        "end_s": stop / source.info.sample_rate_hz,
        "columns": columns,
        "freqs_hz": np.round(found.freqs_hz, 1).tolist(),
        "floor_db": SPECTROGRAM_FLOOR_DB,
        "step_db": 1.0 / _STEPS_PER_DB,
        "values": base64.b64encode(values.tobytes()).decode(),
    }


def time_series_of_stretch(
    source: Source, start_s: float, end_s: float | None, points: int
) -> dict[str, Any]:
    """Loudness over time, levels and spectrum of a stretch."""
    start, stop = _stretch(source.info, start_s, end_s)
    return time_series_of(source, start, stop, points)


def figures_of(source: Source, start_s: float, end_s: float | None) -> dict[str, Any]:
    """Length, peaks, RMS and loudness of a stretch.

    Raises :class:`BadInput` when it is longer than twenty minutes.
    """
    start, stop = _stretch(source.info, start_s, end_s)
    rate = source.info.sample_rate_hz
    if stop - start > LONGEST_FIGURES_S * rate:
        raise BadInput(
            f"selection: is {(stop - start) / rate:.0f} s long; figures are taken of at most "
            f"{LONGEST_FIGURES_S:.0f} s"
        )
    meter = FullMeter(
        SignalInfo(rate, source.info.channels, stop - start),
        parts=frozenset({"peak", "loudness"}),
    )
    with flushing_to_zero():
        for at in range(start, stop, BLOCK_SAMPLES):
            meter.push(source.read(at, min(stop, at + BLOCK_SAMPLES)))
    measures = meter.finish().as_json()
    names = ("sample_peak_dbfs", "true_peak_dbtp", "rms_dbfs", "integrated_lufs")
    return {"duration_s": (stop - start) / rate} | {name: measures[name] for name in names}


def _stretch(info: SignalInfo, start_s: float, end_s: float | None) -> tuple[int, int]:
    """Samples of a stretch, clipped to the signal; raises when nothing is left of it."""
    start = max(0, round(start_s * info.sample_rate_hz))
    stop = info.length_samples
    if end_s is not None:
        stop = min(stop, round(end_s * info.sample_rate_hz))
    if stop <= start:
        raise BadInput(
            f"span: {start_s:g} to {end_s if end_s is not None else info.duration_s:g} s must lie "
            f"within 0 and {info.duration_s:.3f} s, the start before the end",
            path="start_s",
        )
    return start, stop
