"""Keeping blind picks and tastings."""

from __future__ import annotations

from typing import Any

from zesty_core.compare.guessing import LEAST_ROUNDS, MOST_ROUNDS
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.signal import Span
from zesty_server.comparisons.models import BlindPick, Tasting
from zesty_server.comparisons.sides import MOST_SIDES
from zesty_server.recipes.services import checked_steps
from zesty_server.recordings.models import Recording

LEAST_TASTED = 2


def keep_blind_pick(
    recording: Recording, steps: object, span: Span, picked_after: list[bool]
) -> BlindPick:
    """Keep the picks of some rounds with the recording.

    Raises :class:`BadInput` for too few or too many rounds, a span or a chain that does not fit.
    """
    if not LEAST_ROUNDS <= len(picked_after) <= MOST_ROUNDS:
        raise BadInput(
            f"picked_after: must have {LEAST_ROUNDS} to {MOST_ROUNDS} rounds, "
            f"got {len(picked_after)}",
            path="picked_after",
        )
    duration_s = (recording.measures or {}).get("duration_s") or recording.duration_s or 0.0
    Span.checked(span.start_s, span.end_s, "passage", duration_s)
    return BlindPick.objects.create(
        recording=recording,
        chain=checked_steps(steps),
        start_s=span.start_s,
        end_s=span.end_s,
        picked_after=picked_after,
    )


def keep_tasting(
    recording: Recording, span: Span, blind: bool, entries: list[dict[str, Any]]
) -> Tasting:
    """Keep how several treatments of a passage were liked, best first.

    Raises :class:`BadInput` for too few or too many, a span or a chain that does not fit.
    """
    if not LEAST_TASTED <= len(entries) <= MOST_SIDES:
        raise BadInput(
            f"entries: must be {LEAST_TASTED} to {MOST_SIDES}, got {len(entries)}", path="entries"
        )
    duration_s = (recording.measures or {}).get("duration_s") or recording.duration_s or 0.0
    Span.checked(span.start_s, span.end_s, "passage", duration_s)
    kept = [
        {
            "label": entry["label"],
            "steps": None if entry["steps"] is None else checked_steps(entry["steps"]),
            "note": entry.get("note", ""),
        }
        for entry in entries
    ]
    return Tasting.objects.create(
        recording=recording, start_s=span.start_s, end_s=span.end_s, blind=blind, entries=kept
    )
