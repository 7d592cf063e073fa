"""Keeping house voices, and comparing recordings with them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.db import IntegrityError, transaction

from zesty_core.foundation.errors import BadInput
from zesty_core.measures.house_voice import TONE_HZ, Distance, distance_from, house_voice_of
from zesty_core.steps.house_voice import HouseVoiceStep
from zesty_server.house_voices.models import HouseVoice
from zesty_server.jobs.models import JobState
from zesty_server.recordings.models import Recording

_TONE_DECIMALS = 1


@dataclass(frozen=True)
class Compared:
    """A recording beside a house voice: as recorded and as it was last finished, and the step that
    closes the gap."""

    recorded: Distance | None
    finished: Distance | None
    step: dict[str, Any]


def make_house_voice(name: str, recordings: Sequence[Recording]) -> HouseVoice:
    """Keep the voice of finished recordings under a name.

    Raises :class:`BadInput` where none has a voice, or the name is taken.
    """
    documents = [_finished(recording) or recording.measures or {} for recording in recordings]
    figures = house_voice_of(documents).as_json()
    made_of = [recording.name for recording in recordings]
    try:
        with transaction.atomic():
            return HouseVoice.objects.create(name=name, figures=figures, made_of=made_of)
    except IntegrityError:
        raise BadInput(
            f"{name}: there is a house voice of this name already", path="name"
        ) from None


def rename_house_voice(house: HouseVoice, name: str) -> HouseVoice:
    """Give it another name; raises :class:`BadInput` where that is taken."""
    house.name = name
    try:
        with transaction.atomic():
            house.save(update_fields=["name"])
    except IntegrityError:
        raise BadInput(
            f"{name}: there is a house voice of this name already", path="name"
        ) from None
    return house


def compared(house: HouseVoice, recording: Recording) -> Compared:
    """How far a recording is from a house voice.

    Raises :class:`BadInput` for a recording that is not measured.
    """
    if recording.measures is None:
        raise BadInput(f"{recording.name}: is not measured yet; wait until its figures are there")
    finished = _finished(recording)
    return Compared(
        distance_from(recording.measures, house.document),
        distance_from(finished, house.document) if finished else None,
        step_for(house),
    )


def step_for(house: HouseVoice) -> dict[str, Any]:
    """The step that brings a recording's tone to that of the house voice."""
    tone = [
        {"freq_hz": freq_hz, "level_db": round(level_db, _TONE_DECIMALS)}
        for freq_hz, level_db in zip(TONE_HZ, house.document.tone_db, strict=True)
    ]
    step = HouseVoiceStep.from_params({"tone": tone})
    return {"type": step.type, "enabled": True, "params": step.as_params()}


def _finished(recording: Recording) -> dict[str, Any] | None:
    """Measures of its latest result."""
    run = recording.runs.filter(state=JobState.DONE).order_by("-finished_at").first()
    return run.after if run else None
