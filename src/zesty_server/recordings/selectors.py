"""Reading recordings."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from django.db.models import OuterRef, Prefetch, QuerySet, Subquery

from zesty_core.errors import BadInput
from zesty_core.measure.overview import read_overview
from zesty_server.jobs.models import JobState
from zesty_server.recordings.models import Recording
from zesty_server.rooms.models import RoomTone
from zesty_server.runs.models import Run

MOST_BINS = 4_000


def put_away_recordings() -> QuerySet[Recording]:
    """Deleted ones that can still be taken back."""
    return Recording.objects.exclude(deleted_at=None)


def recordings() -> QuerySet[Recording]:
    """All that are there, newest first, with their recipe, room tone and latest finished run."""
    latest = Run.objects.filter(recording=OuterRef("pk"), state=JobState.DONE).order_by(
        "-finished_at"
    )
    return (
        Recording.objects.filter(deleted_at=None)
        .select_related("recipe", "room_tone")
        .prefetch_related(Prefetch("room_tones", RoomTone.objects.all()))
        .annotate(latest_run_id=Subquery(latest.values("pk")[:1]))
    )


def overview_of(
    path: Path, rate: int, length_samples: int, start_s: float, end_s: float | None, bins: int
) -> dict[str, Any]:
    """Overview of a stretch as plain lists."""
    if not path.exists():
        raise BadInput("The waveform is not drawn yet; try again in a moment")
    start = max(0, round(start_s * rate))
    stop = length_samples if end_s is None else min(length_samples, round(end_s * rate))
    part = read_overview(path, length_samples, start, stop, max(1, min(bins, MOST_BINS)))
    low, high, rms = np.round(part.bins.T.astype(np.float64), 6)
    return {
        "bin_s": part.bin_samples / rate,
        "start_s": part.first_bin * part.bin_samples / rate,
        "low": low.tolist(),
        "high": high.tolist(),
        "rms": rms.tolist(),
    }
