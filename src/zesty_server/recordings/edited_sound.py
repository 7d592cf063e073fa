"""What is done to a sound before its chain, as fields of a row."""

from __future__ import annotations

from typing import Any

from django.db import models

from zesty_core.audio.edits import Edits, as_file_edits, holds_room_tone


class EditedSound(models.Model):
    """Abstract: edits of a recording, or those a run was made with; times are of the original."""

    cuts = models.JSONField(default=list, help_text="Spans left out.")
    inserts = models.JSONField(default=list, help_text="Room tone or silence put in, by place.")
    mono = models.CharField(
        max_length=8, blank=True, help_text="How mono is made of stereo: mean, left, right, better."
    )
    pad_start_s = models.FloatField(default=0.0, help_text="Room tone added at the head.")
    pad_end_s = models.FloatField(default=0.0, help_text="Room tone added at the tail.")
    fade_in_s = models.FloatField(default=0.0, help_text="Fade at the start of it all.")
    fade_out_s = models.FloatField(default=0.0, help_text="Fade at its end.")
    markers = models.JSONField(default=list, help_text="Named places; they change no sound.")

    class Meta:
        abstract = True


#: Fields of :class:`EditedSound` that decide what is heard, and all of them.
SOUND_FIELDS = ("cuts", "inserts", "mono", "pad_start_s", "pad_end_s", "fade_in_s", "fade_out_s")
EDIT_FIELDS = (*SOUND_FIELDS, "markers")


def sound_mark(edits: Edits, tone: str | None) -> list[Any]:
    """Stands for what is heard; ``tone`` for the room tone, which counts where some is added."""
    return [as_file_edits(edits).as_json(), tone if holds_room_tone(edits) else None]


def same_sound(a: Edits, b: Edits) -> bool:
    """Whether both edits leave the same to be heard of one recording."""
    return as_file_edits(a) == as_file_edits(b)
