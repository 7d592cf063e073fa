"""Measuring a stream of blocks."""

from __future__ import annotations

from collections.abc import Iterable

from zesty_core.foundation.signal import Block, SignalInfo, Span
from zesty_core.measures.full_meter import FullMeter
from zesty_core.measures.report import Measures
from zesty_core.runtime.pipeline import Pipeline


def metered(blocks: Iterable[Block], meter: FullMeter) -> Pipeline:
    """A line that takes ``blocks`` past the meter, each part of it a stage of its own."""
    line = Pipeline(blocks)
    for push in meter.pushes:
        line.past(push)
    return line


def measure(
    blocks: Iterable[Block],
    info: SignalInfo,
    room_tone: Span | None = None,
    parts: frozenset[str] = FullMeter.PARTS,
) -> Measures:
    """Measure a whole stream.

    Parameters
    ----------
    blocks : float32 of shape (channels, samples) each, from the first sample to the last.
    info : rate, channels and length of all of them.
    room_tone : span to read the noise floor from; without it a stretch is looked for.
    parts : what to measure, of ``FullMeter.PARTS``; the rest is None.

    Returns
    -------
    Levels in dBFS, LUFS and dBTP, spans in seconds, findings; each field names its unit and the module
    of :mod:`zesty_core.measures` its source.

    Examples
    --------
    A sine of 997 Hz with a peak of -20 dBFS has an RMS of -23 dBFS and, in one channel, -23.0 LUFS
    (ITU-R BS.1770-5, EBU Tech 3341).

    >>> import numpy as np
    >>> from zesty_core.foundation.signal import SignalInfo
    >>> time_s = np.arange(5 * 48_000) / 48_000
    >>> sine = 0.1 * np.sin(2 * np.pi * 997 * time_s, dtype=np.float32)[np.newaxis]
    >>> measures = measure([sine], SignalInfo(48_000, *sine.shape))
    >>> round(measures.integrated_lufs, 1), round(measures.rms_dbfs, 1)
    (-23.0, -23.0)
    """
    meter = FullMeter(info, room_tone, parts)
    metered(blocks, meter).run()
    return meter.finish()
