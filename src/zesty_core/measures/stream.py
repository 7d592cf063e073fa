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
    """Measures of a whole stream."""
    meter = FullMeter(info, room_tone, parts)
    metered(blocks, meter).run()
    return meter.finish()
