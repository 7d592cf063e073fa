"""Findings about the room of a recording and the room tone found in it.

Limits are common practice, no published source.
"""

from __future__ import annotations

import math
from collections.abc import Callable

from zesty_core.advice.finding import Act, Finding, add_step
from zesty_core.measures.noise_floor_shift import (
    LEAST_CLEARANCE_DB,
    is_heard_there,
    noise_floor_shift_words,
)
from zesty_core.measures.report import Measures

_MOST_SILENCE = 0.02
_RESTLESS_DB = 6.0
_SHORT_PAUSE_S = 0.3


def _no_room_tone(m: Measures) -> Finding | None:
    # Where nothing at all lies between the words, there is no room to be learned.
    if m.found_room_tone is not None or not m.room_is_heard:
        return None
    return Finding(
        "no_room_tone",
        "No stretch of room tone was found: noise reduction learns from under the words, which serves "
        "in a steady room. Mark a quiet stretch, or use a room tone kept from another take in this "
        "room.",
        Act("mark_room_tone", "Mark room tone"),
    )


def _short_room_tone(m: Measures) -> Finding | None:
    spans = m.learned_spans
    if not _needs_work(m) or not spans or max(s.duration_s for s in spans) >= _SHORT_PAUSE_S:
        return None
    together_s = sum(span.duration_s for span in spans)
    gaps = "one gap" if len(spans) == 1 else f"{len(spans)} gaps"
    return Finding(
        "short_room_tone",
        f"No pause is long enough for room tone: noise is learned from {gaps} between the words, "
        f"{together_s:.1f} s in all, and from under the words. A second in which nobody speaks teaches "
        "more; one kept from another take in this room serves too.",
        Act("mark_room_tone", "Mark room tone"),
    )


def _restless_room(m: Measures) -> Finding | None:
    if not _needs_work(m) or not m.room_tones or m.room_tones[0].level_spread_db < _RESTLESS_DB:
        return None
    return Finding(
        "restless_room",
        f"The room swells and sags by {m.room_tones[0].level_spread_db:.0f} dB by itself: its loudest "
        "moments stay between the words after noise reduction. The longer the room tone, the fewer "
        "do; two seconds and more help.",
        Act("mark_room_tone", "Mark room tone"),
    )


def _louder_room(m: Measures) -> Finding | None:
    if m.noise_floor_shift is None or not is_heard_there(m.noise_floor_shift, _room(m)[0]):
        return None
    return Finding(
        "noise_floor_shift",
        f"{noise_floor_shift_words(m.noise_floor_shift)}: noise reduction that knows one of the two "
        "takes little from the other. It can follow.",
        add_step("Add Noise reduction that follows", "noise_reduction", track_noise=True),
        at_s=(m.noise_floor_shift.span.start_s,),
    )


def _low_clearance(m: Measures) -> Finding | None:
    # With digital silence in the gaps, what is quietest besides is the voice's own tail.
    if not _needs_work(m) or m.digital_silence_share > _MOST_SILENCE:
        return None
    clearance_db, room_dbfs = _room(m)
    return Finding(
        "low_clearance",
        f"The room is only {clearance_db:.1f} dB under the voice "
        f"({room_dbfs:.1f} dBFS between the words); "
        f"{LEAST_CLEARANCE_DB:g} dB and more sound quiet.",
        add_step("Add Noise reduction", "noise_reduction"),
    )


def _room(m: Measures) -> tuple[float, float]:
    """How far the room lies under the voice, and its level; nothing heard of it is far."""
    if m.voice_level_dbfs is None or m.noise_floor_dbfs is None:
        return math.inf, -math.inf
    # Who does not pause speaks in the quietest half second too; the gaps tell the room then.
    level_dbfs = min([m.noise_floor_dbfs, *(found.level_dbfs for found in m.room_tones[:1])])
    # From the levels as they are shown, so that a limit is missed by what can be seen.
    return round(round(m.voice_level_dbfs, 1) - round(level_dbfs, 1), 1), level_dbfs


def _needs_work(m: Measures) -> bool:
    return _room(m)[0] < LEAST_CLEARANCE_DB


ROOM_RULES: tuple[Callable[[Measures], Finding | None], ...] = (
    _no_room_tone,
    _short_room_tone,
    _restless_room,
    _louder_room,
    _low_clearance,
)
