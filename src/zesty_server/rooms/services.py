"""Marking, choosing and naming room tones."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from django.db import transaction

from zesty_core.errors import BadInput
from zesty_core.room_tone import LONGEST_S
from zesty_core.room_tone import RoomTone as CoreRoomTone
from zesty_core.signal import Span
from zesty_core.units import level_or_none, power_to_db
from zesty_server.recordings.edits import edited, open_audio
from zesty_server.rooms.models import RoomTone

if TYPE_CHECKING:
    from zesty_server.recordings.models import Recording


@transaction.atomic
def mark_room_tone(recording: Recording, start_s: float, end_s: float, name: str) -> RoomTone:
    """Keep a span of a recording as room tone and use it there.

    Raises :class:`BadInput` when the span is too short or outside the recording.
    """
    source = open_audio(recording)
    span = Span(start_s, end_s)
    CoreRoomTone(spans=(span,)).checked(source.info)
    start, stop = span.samples(source.info.sample_rate_hz)
    sound = source.read(start, min(stop, start + round(LONGEST_S * source.info.sample_rate_hz)))
    power = float(np.var(sound, axis=1, dtype=np.float64).mean())
    tone = RoomTone.objects.create(
        name=name.strip() or f"{recording.name}, room tone",
        recording=recording,
        start_s=start_s,
        end_s=end_s,
        level_dbfs=level_or_none(power_to_db(power)),
    )
    use_room_tone(recording, tone)
    return tone


def use_room_tone(recording: Recording, tone: RoomTone | None) -> None:
    """Choose the room tone of a recording; None lets it be found."""
    recording.room_tone = tone
    recording.save(update_fields=["room_tone"])


def rename_room_tone(tone: RoomTone, name: str) -> RoomTone:
    """Give it another name."""
    if not name.strip():
        raise BadInput("name: must not be empty", path="name")
    tone.name = name.strip()
    tone.save(update_fields=["name"])
    return tone


def room_tone_for(recording: Recording) -> CoreRoomTone | None:
    """What the runner learns the noise from; None lets it look for itself."""
    tone = recording.room_tone
    if tone is None:
        return None
    span = Span(tone.start_s, tone.end_s)
    if tone.recording_id == recording.pk and not recording.cuts:
        return CoreRoomTone(spans=(span,))
    # Times of the original mean nothing after cuts, nor in another recording: the sound is handed on.
    file = open_audio(tone.recording)
    source = edited(file, [], tone.recording.mono)
    rate = source.info.sample_rate_hz
    start, stop = span.samples(rate)
    samples = source.read(start, min(stop, start + round(LONGEST_S * rate)))
    own = tone.recording_id == recording.pk
    return CoreRoomTone(
        samples=samples, sample_rate_hz=rate, source="marked" if own else "other recording"
    )
