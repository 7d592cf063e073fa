"""Marking, choosing and naming room tones."""

from __future__ import annotations

import io
from typing import TYPE_CHECKING

import soundfile
from django.db import transaction

from zesty_core.audio.edits import moves_times, one_side
from zesty_core.audio.reader import AudioFile
from zesty_core.audio.writer import AudioWriter
from zesty_core.foundation.errors import BadInput, UnreadableAudio
from zesty_core.foundation.room_tone import LONGEST_S
from zesty_core.foundation.room_tone import RoomTone as CoreRoomTone
from zesty_core.foundation.signal import Block, Source, Span
from zesty_core.measures.room_profile import RoomProfile, profile_of
from zesty_server.recordings.edits import open_audio
from zesty_server.rooms.models import RoomTone

if TYPE_CHECKING:
    from zesty_server.recordings.models import Recording


def profile_of_span(recording: Recording, start_s: float, end_s: float) -> RoomProfile:
    """What a span of a recording would be like as room tone.

    Raises :class:`BadInput` when it is too short or outside the recording.
    """
    source = open_audio(recording)
    span = Span(start_s, end_s)
    CoreRoomTone(spans=(span,)).checked(source.info)
    return profile_of(read_tone(source, span), source.info.sample_rate_hz)


def read_tone(source: Source, span: Span) -> Block:
    """Sound of a span, of which more than 20 s teach nothing more."""
    rate = source.info.sample_rate_hz
    start, stop = span.samples(rate)
    return source.read(start, min(stop, start + round(LONGEST_S * rate)))


@transaction.atomic
def mark_room_tone(recording: Recording, start_s: float, end_s: float, name: str) -> RoomTone:
    """Keep a span of a recording as room tone and use it there.

    Raises :class:`BadInput` when the span is too short or outside the recording.
    """
    profile = profile_of_span(recording, start_s, end_s)
    tone = RoomTone.objects.create(
        name=name.strip() or f"{recording.name}, room tone",
        recording=recording,
        start_s=start_s,
        end_s=end_s,
        level_dbfs=profile.level_dbfs,
        profile=profile.as_json(),
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


def remove_room_tone(tone: RoomTone) -> None:
    """Remove it, and its sound where that lies by itself."""
    path = tone.sound_path
    tone.delete()
    path.unlink(missing_ok=True)


def keep_sounds_of(recording: Recording) -> None:
    """Keep what was learned from a recording that is about to go for good.

    A sample whose sound cannot be read any more goes with it. Raises :class:`UnwritableAudio` on a
    full disk.
    """
    for tone in recording.room_tones.all():
        try:
            sound = _sound_of(tone, "marked")
        except UnreadableAudio:
            remove_room_tone(tone)
            continue
        assert sound.samples is not None
        tone.sound_path.parent.mkdir(exist_ok=True)
        channels, length = sound.samples.shape
        with AudioWriter(
            tone.sound_path, sound.sample_rate_hz, channels, "FLOAT", length_samples=length
        ) as file:
            file.write(sound.samples)


def room_tone_for(recording: Recording) -> CoreRoomTone | None:
    """What the runner learns the noise from; None lets it look for itself."""
    tone = recording.room_tone
    if tone is None:
        return None
    span = Span(tone.start_s, tone.end_s)
    if tone.recording_id == recording.pk and not moves_times(recording):
        return CoreRoomTone(spans=(span,))
    # Times of the original mean nothing after edits, nor in another recording: the sound is handed on.
    return _sound_of(tone, "marked" if tone.recording_id == recording.pk else "other recording")


def tone_mark(recording: Recording) -> str | None:
    """Stands for the room tone in use: another mark, other noise to learn."""
    tone = recording.room_tone
    return f"{tone.pk} {tone.start_s} {tone.end_s}" if tone else None


def fill_tone_for(recording: Recording) -> CoreRoomTone | None:
    """Sound that fills what is added; None when the recording has no room tone."""
    return _sound_of(recording.room_tone, "marked") if recording.room_tone else None


def tone_as_wav(tone: RoomTone) -> bytes:
    """The sample as a 16-bit WAV file, for listening."""
    sound = _sound_of(tone, "marked")
    assert sound.samples is not None
    file = io.BytesIO()
    soundfile.write(file, sound.samples.T, sound.sample_rate_hz, "PCM_16", format="WAV")
    return file.getvalue()


def _sound_of(tone: RoomTone, source_words: str) -> CoreRoomTone:
    if tone.recording is None:
        source: Source = AudioFile(tone.sound_path, tone.name)
        samples = source.read(0, source.info.length_samples)
    else:
        source = one_side(open_audio(tone.recording), tone.recording.mono)
        samples = read_tone(source, Span(tone.start_s, tone.end_s))
    return CoreRoomTone(
        samples=samples, sample_rate_hz=source.info.sample_rate_hz, source=source_words
    )
