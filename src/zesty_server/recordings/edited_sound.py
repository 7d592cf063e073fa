"""Edits before the chain, as model fields."""

from __future__ import annotations

from typing import Any

from django.db import models

from zesty_core.audio.edits import Edits, as_file_edits, holds_room_tone


class EditedSound(models.Model):
    """Abstract: edits of a recording or of a run, in times of the original."""

    cuts = models.JSONField(default=list, help_text="Spans left out.")
    inserts = models.JSONField(default=list, help_text="Room tone or silence, by position.")
    mono = models.CharField(
        max_length=8, blank=True, help_text="How mono is made of stereo: mean, left, right, better."
    )
    pad_start_s = models.FloatField(default=0.0, help_text="Room tone added at the head.")
    pad_end_s = models.FloatField(default=0.0, help_text="Room tone added at the tail.")
    fade_in_s = models.FloatField(default=0.0, help_text="Length of the fade-in.")
    fade_out_s = models.FloatField(default=0.0, help_text="Length of the fade-out.")
    markers = models.JSONField(
        default=list, help_text="Named positions; they do not change the sound."
    )

    speakers = models.JSONField(
        null=True, default=None, help_text="Who speaks when, where a person has settled it."
    )

    repairs = models.JSONField(
        null=True, default=None, help_text="Events that repairs leave alone, or mend as well."
    )

    class Meta:
        abstract = True


#: Fields of :class:`EditedSound` that change the sound, and all of them.
SOUND_FIELDS = ("cuts", "inserts", "mono", "pad_start_s", "pad_end_s", "fade_in_s", "fade_out_s")
EDIT_FIELDS = (*SOUND_FIELDS, "markers", "speakers", "repairs")


def sound_mark(edits: Edits, tone: str | None) -> list[Any]:
    """Identifies the edited sound; ``tone`` (of the room tone) counts only where it is used."""
    sound = as_file_edits(edits).as_json()
    # Who speaks and what repairs do does not change what is measured.
    for name in ("speakers", "repairs"):
        sound.pop(name, None)
    return [sound, tone if holds_room_tone(edits) else None]


def same_sound(a: Edits, b: Edits) -> bool:
    """Whether both edits give the same sound, and the same to its chain."""
    return as_file_edits(a) == as_file_edits(b)
