"""A recording as it is heard before its chain."""

from __future__ import annotations

from zesty_core.audio.edits import edited
from zesty_core.signal import Source
from zesty_server.recordings.edits import open_audio
from zesty_server.recordings.models import Recording
from zesty_server.rooms.services import fill_tone_for


def source_of(recording: Recording) -> Source:
    """What goes into the recording's chain: its file with the edits."""
    return edited(open_audio(recording), recording, fill_tone_for(recording))
