"""Reading runs, and what they add to recordings."""

from __future__ import annotations

from django.db.models import OuterRef, QuerySet, Subquery

from zesty_server.deliveries.models import Delivery
from zesty_server.jobs.models import JobState
from zesty_server.recordings.models import Recording
from zesty_server.runs.models import Run


def runs() -> QuerySet[Run]:
    """All, newest first."""
    return Run.objects.select_related("recording", "delivery")


def with_latest_run(found: QuerySet[Recording]) -> QuerySet[Recording]:
    """Recordings with their latest finished run and their latest delivery."""
    latest = Run.objects.filter(recording=OuterRef("pk"), state=JobState.DONE).order_by(
        "-finished_at"
    )
    delivered = Delivery.objects.filter(
        run__recording=OuterRef("pk"), run__state=JobState.DONE
    ).order_by("-run__finished_at")
    return found.annotate(
        latest_run_id=Subquery(latest.values("pk")[:1]),
        last_delivery_name=Subquery(delivered.values("name")[:1]),
        last_delivered_at=Subquery(delivered.values("run__finished_at")[:1]),
    )
