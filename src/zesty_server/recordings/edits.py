"""A recording's file, and its ends as they are."""

from __future__ import annotations

from zesty_core.audio.ends import Ends
from zesty_core.audio.reader import AudioFile
from zesty_server.recordings.models import Recording


def open_audio(recording: Recording) -> AudioFile:
    """The recording's file as it came, called by its own name in errors."""
    return AudioFile(recording.path, recording.original_name)


def ends_of(recording: Recording) -> Ends:
    """Cuts and added room tone as they are."""
    return Ends(
        recording.cuts, recording.pad_start_s, recording.pad_end_s, recording.duration_s or 0.0
    )
