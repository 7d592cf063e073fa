"""Reading batches."""

from __future__ import annotations

from django.db.models import Prefetch, QuerySet

from zesty_server.batches.models import Batch
from zesty_server.runs.models import Run


def batches() -> QuerySet[Batch]:
    """All, newest first, with their runs in the order chosen."""
    runs = Run.objects.select_related("recording", "delivery").order_by("created_at")
    return Batch.objects.prefetch_related(Prefetch("runs", runs))
