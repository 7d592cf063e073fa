"""Reading runs."""

from __future__ import annotations

from django.db.models import QuerySet

from zesty_server.runs.models import Run


def runs() -> QuerySet[Run]:
    """All, newest first."""
    return Run.objects.select_related("recording", "delivery")
