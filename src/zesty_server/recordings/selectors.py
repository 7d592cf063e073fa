"""Reading recordings."""

from __future__ import annotations

from typing import Any

from django.db.models import OuterRef, Prefetch, QuerySet, Subquery

from zesty_server.deliveries.models import Delivery
from zesty_server.jobs.models import JobState
from zesty_server.recordings.models import Recording
from zesty_server.rooms.models import RoomTone
from zesty_server.runs.models import Run


def put_away_recordings() -> QuerySet[Recording]:
    """Deleted ones that can still be taken back."""
    return Recording.objects.exclude(deleted_at=None)


def recordings_alone() -> QuerySet[Recording]:
    """All that are there, without what a list or a page tells beside them."""
    return Recording.objects.filter(deleted_at=None).select_related("room_tone", "target")


def recordings() -> QuerySet[Recording]:
    """All that are there, newest first, with their recipe, room tone and latest finished run."""
    latest = Run.objects.filter(recording=OuterRef("pk"), state=JobState.DONE).order_by(
        "-finished_at"
    )
    delivered = Delivery.objects.filter(
        run__recording=OuterRef("pk"), run__state=JobState.DONE
    ).order_by("-run__finished_at")
    return (
        Recording.objects.filter(deleted_at=None)
        .select_related("recipe", "room_tone")
        .prefetch_related(Prefetch("room_tones", RoomTone.objects.all()))
        .annotate(
            latest_run_id=Subquery(latest.values("pk")[:1]),
            last_delivery_name=Subquery(delivered.values("name")[:1]),
            last_delivered_at=Subquery(delivered.values("run__finished_at")[:1]),
        )
    )


def told_measures(recording: Recording) -> dict[str, Any] | None:
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
