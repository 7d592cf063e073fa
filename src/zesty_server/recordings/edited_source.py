"""The edited recording: the input of its chain."""

from __future__ import annotations

from zesty_core.audio.edits import edited
from zesty_core.foundation.signal import Source
from zesty_server.recordings.edits import open_audio
from zesty_server.recordings.models import Recording
from zesty_server.recordings.room_tones import fill_tone_for


def source_of(recording: Recording) -> Source:
    """The recording's file with its edits applied."""
    return edited(open_audio(recording), recording, fill_tone_for(recording))
