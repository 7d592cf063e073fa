"""Reading recordings."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.db.models import Prefetch, QuerySet

from zesty_server.recordings.models import Recording
from zesty_server.rooms.models import RoomTone

_ANNOTATIONS: list[Callable[[QuerySet[Recording]], QuerySet[Recording]]] = []


def put_away_recordings() -> QuerySet[Recording]:
    """Deleted ones that can still be taken back."""
    return Recording.objects.exclude(deleted_at=None)


def recordings_alone() -> QuerySet[Recording]:
    """All that are there, without what a list or a page tells beside them."""
    return Recording.objects.filter(deleted_at=None).select_related("room_tone", "target")


def add_to_list(annotate: Callable[[QuerySet[Recording]], QuerySet[Recording]]) -> None:
    """Let another app annotate every recording of a list or page."""
    _ANNOTATIONS.append(annotate)


def recordings() -> QuerySet[Recording]:
    """All that are there, newest first, with recipe, room tones and what other apps add."""
    found = (
        Recording.objects.filter(deleted_at=None)
        .select_related("recipe", "room_tone")
        .prefetch_related(Prefetch("room_tones", RoomTone.objects.all()))
    )
    for annotate in _ANNOTATIONS:
        found = annotate(found)
    return found


def shown_measures(recording: Recording) -> dict[str, Any] | None:
    """Figures of a recording; its noise is that of the room tone marked in it, as in its runs."""
    measures: dict[str, Any] | None = recording.measures
    tone = recording.room_tone
    level = tone.level_dbfs if tone and tone.recording_id == recording.pk else None
    if measures is None or tone is None or level is None:
        return measures
    voice = measures["voice_level_dbfs"]
    return measures | {
        "noise_floor_dbfs": level,
        "noise_floor_source": "room tone",
        "noise_floor_span": {"start_s": tone.start_s, "end_s": tone.end_s},
        "clearance_db": None if voice is None else voice - level,
    }
