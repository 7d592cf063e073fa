"""Compressed recordings, decoded once in the background and kept beside the original."""

from __future__ import annotations

from collections.abc import Callable

from zesty_core.audio.decoded import COMPRESSED
from zesty_core.audio.decoded_file import SUFFIX, decode_file
from zesty_core.audio.reader import AudioFile
from zesty_core.chain.runner import Progress
from zesty_core.foundation.errors import Cancelled
from zesty_server.jobs.attempts import Attempt
from zesty_server.recordings.edits import missing_original, open_audio
from zesty_server.recordings.models import Recording


def decoded_audio(
    recording: Recording,
    attempt: Attempt,
    progress: Callable[[Progress], None] | None = None,
) -> AudioFile:
    """The recording's sound for a worker, which decodes it first where that is missing.

    ``progress`` receives the share decoded; by default the attempt's own.
    """
    if recording.container in COMPRESSED and not recording.decoded_path.exists():
        if not recording.path.exists():
            raise missing_original(recording)
        _decode(recording, attempt, progress or attempt.progress)
    return open_audio(recording)


def _decode(recording: Recording, attempt: Attempt, progress: Callable[[Progress], None]) -> None:
    def watch(share: float) -> None:
        if attempt.cancelled():
            raise Cancelled
        progress(Progress(share, "decoding"))

    made = recording.folder / f"decoding-{attempt.token}{SUFFIX}"
    try:
        decode_file(recording.path, recording.original_name, made, watch)
        if not attempt.is_current():
            raise Cancelled
        made.replace(recording.decoded_path)
    finally:
        made.unlink(missing_ok=True)


def remove_unfinished(recording: Recording) -> None:
    """Remove what decodings that were killed have left in the recording's folder."""
    for pattern in ("decoding-*", ".decoding-*"):
        for path in recording.folder.glob(pattern):
            path.unlink(missing_ok=True)
