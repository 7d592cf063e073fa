"""A stretch worth looping while a chain is set: loud and quiet speech, and a pause.

Common practice, no published source.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from zesty_core.foundation.signal import Span
from zesty_core.measures.speech_events import Phrase

_WANTED_S = 10.0
_LEAST_S = 5.0
#: Room before the first word, so that a gate is heard opening.
_LEAD_S = 0.4
_PAUSE_S = 0.35
#: A pause is worth as much as so many decibels between the loudest and the softest phrase.
_PAUSE_WORTH_DB = 3.0
#: Hardly spoken stretches show little.
_LEAST_SPOKEN = 0.4


def proposed_passage(phrases: Sequence[Phrase], duration_s: float) -> Span | None:
    """About ten seconds that show most; the start of a recording without speech; None when empty."""
    if duration_s <= 0.0:
        return None
    length_s = min(_WANTED_S, duration_s)
    if length_s < _LEAST_S or not phrases:
        return Span(0.0, length_s)
    best, most = Span(0.0, length_s), -1.0
    for phrase in phrases:
        start_s = min(max(0.0, phrase.start_s - _LEAD_S), duration_s - length_s)
        span = Span(round(start_s, 2), round(start_s + length_s, 2))
        worth = _worth(phrases, span)
        if worth > most + 1e-9:
            best, most = span, worth
    return best


def _worth(phrases: Sequence[Phrase], span: Span) -> float:
    inside = [p for p in phrases if p.end_s > span.start_s and p.start_s < span.end_s]
    if not inside:
        return 0.0
    spoken = sum(min(p.end_s, span.end_s) - max(p.start_s, span.start_s) for p in inside)
    if spoken < _LEAST_SPOKEN * span.duration_s:
        return 0.0
    levels = [p.level_dbfs for p in inside]
    pauses = any(b.start_s - a.end_s >= _PAUSE_S for a, b in itertools.pairwise(inside))
    return max(levels) - min(levels) + (_PAUSE_WORTH_DB if pauses else 0.0)
