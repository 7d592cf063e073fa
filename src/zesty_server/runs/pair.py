"""What went into the chain of a run and what came out of it, in one file."""

from __future__ import annotations

from zesty_core.audio.reader import MAX_CHANNELS, AudioFile
from zesty_server.runs.models import Run


def pair_of(run: Run) -> AudioFile:
    """The channels before, then those after: of a stereo recording there are four."""
    return AudioFile(run.pair_path, run.result_name, 2 * MAX_CHANNELS)
