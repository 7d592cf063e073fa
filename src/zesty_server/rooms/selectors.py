"""Reading room tones."""

from __future__ import annotations

from collections.abc import Iterable

from django.db.models import Count, Q, QuerySet

from zesty_core.measures.room_profile import RoomProfile, changes
from zesty_server.rooms.models import RoomTone


def room_tones() -> QuerySet[RoomTone]:
    """All, newest first, with the number of recordings that use each."""
    used = Count("used_in", filter=Q(used_in__deleted_at=None))
    # A query that counts does not keep the model's own order.
    return (
        RoomTone.objects.select_related("recording").annotate(used_by=used).order_by("-created_at")
    )


def with_changes(tones: Iterable[RoomTone]) -> list[RoomTone]:
    """Room tones (newest first), each compared with the one of the same name before it."""
    before: dict[str, RoomTone] = {}
    told = list(tones)
    for tone in reversed(told):
        older = before.get(tone.name)
        tone.changes, tone.changed_since = [], None
        if older and older.profile and tone.profile:
            then, now = (RoomProfile.from_json(p) for p in (older.profile, tone.profile))
            tone.changes, tone.changed_since = changes(then, now), older.created_at
        before[tone.name] = tone
    return told
