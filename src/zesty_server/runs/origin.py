"""Where the sound of a run came from, for its receipt."""

from __future__ import annotations

from zesty_core.audio.edits import as_file_edits
from zesty_core.delivery.receipt import Origin
from zesty_core.foundation.signal import SignalInfo
from zesty_server.runs.models import Run


def origin_of(run: Run, info: SignalInfo) -> Origin:
    """Where a run's sound came from; ``info`` is of the recording's file."""
    recording = run.recording
    edits = as_file_edits(run).as_json()
    return Origin(
        recording.original_name,
        recording.sha256,
        info,
        run.recipe_name,
        run.recipe_version,
        edits,
    )
