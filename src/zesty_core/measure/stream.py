"""Measuring a stream of blocks with a thread for each part of a meter."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from zesty_core.background import SideBySide
from zesty_core.measure.report import FullMeter, Measures
from zesty_core.signal import Block, SignalInfo, Span


def beside(line: SideBySide, meter: FullMeter) -> Callable[[Block], None]:
    """The meter's push, each of its parts in a thread of its own; read it when ``line`` has ended."""
    pushes = [line.beside(push) for push in meter.pushes]

    def push(block: Block) -> None:
        for one in pushes:
            one(block)

    return push


def measure(
    blocks: Iterable[Block],
    info: SignalInfo,
    room_tone: Span | None = None,
    parts: frozenset[str] = FullMeter.PARTS,
) -> Measures:
    """Measures of a whole stream, read ahead of its meter."""
    meter = FullMeter(info, room_tone, parts)
    with SideBySide() as line:
        push = beside(line, meter)
        for block in line.stage(blocks):
            push(block)
    return meter.finish()
