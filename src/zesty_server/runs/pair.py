"""What went into the chain of a run, and that with what came out of it in one file."""

from __future__ import annotations

from zesty_core.audio.channels import MonoSource, SomeChannels
from zesty_core.audio.edits import edited, holds_room_tone
from zesty_core.audio.reader import MAX_CHANNELS, AudioFile
from zesty_core.foundation.signal import Source
from zesty_server.recordings.edits import open_audio
from zesty_server.runs.models import Run


def pair_of(run: Run) -> AudioFile:
    """The channels before, then those after: of a stereo recording there are four."""
    return AudioFile(run.pair_path, run.result_name, 2 * MAX_CHANNELS)


def before_of(run: Run) -> Source:
    """What went in: from the recording, which most often is read far faster than the pair, unless
    room tone was added, which may be another one since."""
    if holds_room_tone(run):
        return SomeChannels(pair_of(run), 0, run.channels)
    before = edited(open_audio(run.recording), run, None)
    return MonoSource(before, "mean") if run.folds else before
