"""Reading batches."""

from __future__ import annotations

from django.db.models import Count, Prefetch, Q, QuerySet

from zesty_server.batches.models import Batch
from zesty_server.jobs.models import JobState
from zesty_server.runs.models import Run


def batches() -> QuerySet[Batch]:
    """All, newest first, with the number of their runs in each state."""

    def count(*states: JobState) -> Count:
        return Count("runs", filter=Q(runs__state__in=states))

    # A query that counts does not keep the model's own order.
    return Batch.objects.annotate(
        done=count(JobState.DONE),
        to_go=count(JobState.WAITING, JobState.RUNNING),
        stopped=count(JobState.FAILED, JobState.CANCELLED),
    ).order_by("-created_at")


def whole_batches() -> QuerySet[Batch]:
    """The same with their runs in the order chosen, without what no row of a batch shows."""
    runs = (
        Run.objects.select_related("recording", "delivery")
        .defer(
            "points", "room_tone", "recording__measures", "recording__advice", "recording__chain"
        )
        .order_by("created_at")
    )
    return batches().prefetch_related(Prefetch("runs", runs))
