"""Head and tail as a target wants them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from zesty_core.audio.ends import Ends, merged
from zesty_core.foundation.room_tone import LONGEST_S, RoomTone
from zesty_core.foundation.signal import SignalInfo, Source, Span
from zesty_core.targets.check import figure
from zesty_core.targets.document import Target


def ends_for(target: Target, measures: Mapping[str, Any], ends: Ends) -> Ends:
    """Cut what is too much of silence and add what is missing; unchanged where it fits.

    ``measures`` (as JSON) are of the recording with ``ends`` as they are. A recording without a
    voice keeps its ends. Aims between the limits, so that the chain may move an edge a little.
    """
    head, tail = target.bounds.get("head_s"), target.bounds.get("tail_s")
    head_s, tail_s = figure(measures, "head_s"), figure(measures, "tail_s")
    if head and head_s is not None and not head.holds(head_s):
        ends = ends.with_head(head.middle - head_s)
    if tail and tail_s is not None and not tail.holds(tail_s):
        ends = ends.with_tail(tail.middle - tail_s)
    return replace(ends, cuts=merged(ends.cuts))


def fill_tone(source: Source, given: RoomTone | None, found: Span | None) -> RoomTone | None:
    """Sound that fills an end: the given room tone, else the one found in ``source``."""
    if given is not None and given.samples is not None:
        return given
    span = max(given.spans, key=lambda s: s.duration_s) if given and given.spans else found
    if span is None:
        return None
    info: SignalInfo = source.info
    start, stop = span.samples(info.sample_rate_hz)
    stop = min(stop, start + round(LONGEST_S * info.sample_rate_hz))
    return RoomTone(samples=source.read(start, stop), sample_rate_hz=info.sample_rate_hz)
