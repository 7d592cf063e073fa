"""Reading room tones."""

from __future__ import annotations

from django.db.models import Count, Q, QuerySet

from zesty_server.rooms.models import RoomTone


def room_tones() -> QuerySet[RoomTone]:
    """All, newest first, with the number of recordings that use each."""
    return RoomTone.objects.select_related("recording").annotate(
        used_by=Count("used_in", filter=Q(used_in__deleted_at=None))
    )
