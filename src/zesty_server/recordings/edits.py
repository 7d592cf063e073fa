"""A recording's sound, and its ends as they are."""

from __future__ import annotations

from zesty_core.audio.decoded import COMPRESSED
from zesty_core.audio.ends import Ends
from zesty_core.audio.reader import AudioFile, FileFormat
from zesty_core.foundation.errors import MissingFile, NotReady
from zesty_server.jobs.models import JobState
from zesty_server.recordings.models import Recording
from zesty_server.recordings.queueing import measure_again


def open_audio(recording: Recording) -> AudioFile:
    """The recording's sound as it came, called by its own name in errors.

    A compressed file is read from what it was decoded to; where that was removed it is queued to be
    made again.

    Raises
    ------
    MissingFile
        The original is gone.
    NotReady
        A compressed file is being decoded.
    """
    if recording.container not in COMPRESSED:
        if not recording.path.exists():
            raise missing_original(recording)
        return AudioFile(recording.path, recording.original_name)
    if not recording.decoded_path.exists():
        if not recording.path.exists():
            raise missing_original(recording)
        measure_again(recording, JobState.DONE)
        raise NotReady(
            f"{recording.name}: is a compressed file and is being decoded; try again in a moment"
        )
    return AudioFile(
        recording.decoded_path,
        recording.original_name,
        original=FileFormat(recording.container, recording.subtype),
    )


def missing_original(recording: Recording) -> MissingFile:
    """What to say when a recording's file is not where it was put."""
    return MissingFile(
        recording.name,
        f"its file is gone from the data folder; bring {recording.original_name} in again",
    )


def ends_of(recording: Recording) -> Ends:
    """Cuts and added room tone as they are."""
    return Ends(
        recording.cuts,
        recording.pad_start_s,
        recording.pad_end_s,
        recording.duration_s or 0.0,
        recording.inserts,
    )
