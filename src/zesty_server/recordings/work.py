"""Changes of a recording's chain and of the edits before it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.db import transaction
from django.db.models import F

from zesty_core.audio.channels import MONO_CHOICES, better_channel
from zesty_core.audio.edits import (
    as_file_edits,
    checked_cuts,
    checked_inserts,
    checked_repairs,
    checked_speakers,
    edit_times,
)
from zesty_core.audio.ends import Ends
from zesty_core.audio.markers import checked_markers
from zesty_core.foundation.errors import BadInput
from zesty_core.measures.pauses import long_pauses
from zesty_server.jobs.models import JobState
from zesty_server.recipes.models import Recipe
from zesty_server.recipes.services import checked_steps
from zesty_server.recordings.edited_sound import EDIT_FIELDS, SOUND_FIELDS
from zesty_server.recordings.edited_source import source_of
from zesty_server.recordings.edits import ends_of, open_audio
from zesty_server.recordings.models import Recording
from zesty_server.recordings.queueing import ANEW, enqueue_measuring
from zesty_server.recordings.room_tones import mark_room_tone
from zesty_server.recordings.work_version import change_work, check_seen


def set_chain(
    recording: Recording, steps: object, work_version: int | None = None, **came_from: Any
) -> Recording:
    """Replace the chain; raises with the fault's path and keeps the old one when it is wrong.

    ``work_version`` is the one that was seen; ``came_from``: ``recipe`` and ``recipe_version``, where
    they are to change as well.
    """
    change_work(recording, work_version, chain=checked_steps(steps), **came_from)
    return recording


def apply_recipe(
    recording: Recording, recipe: Recipe, work_version: int | None = None
) -> Recording:
    """Make the recipe's steps the recording's chain."""
    origin = {"recipe": recipe, "recipe_version": recipe.version}
    return set_chain(recording, recipe.steps, work_version, **origin)


@transaction.atomic
def set_edits(
    recording: Recording, edits: Mapping[str, Any], work_version: int | None = None
) -> Recording:
    """Replace the given edits and keep the others; measure again if the sound changes.

    Raises :class:`BadInput` when one does not fit or nothing would be left, and
    :class:`ChangedElsewhere` when ``work_version``, the one that was seen, is not the present one.
    """
    check_seen(recording, work_version)
    now = {name: getattr(recording, name) for name in EDIT_FIELDS}
    wanted = now | _checked(recording, edits)
    if any(insert["kind"] == "room_tone" for insert in wanted["inserts"]):
        _keep_found_tone(recording, ends_of(recording))
    mine = Recording.objects.filter(pk=recording.pk)
    if work_version is not None:
        mine = mine.filter(work_version=work_version)
    changes: dict[str, Any] = wanted | {"work_version": F("work_version") + 1}
    if all(wanted[name] == now[name] for name in SOUND_FIELDS):
        if not mine.update(**changes):
            check_seen(recording, work_version)
    # Who is measuring it just now looks at the end whether that was of these edits.
    elif not mine.filter(state=JobState.RUNNING).update(**changes):
        if not mine.filter(state__in=(JobState.DONE, JobState.WAITING)).update(**changes, **ANEW):
            check_seen(recording, work_version)
            raise BadInput(f"{recording.name}: could not be measured, so it cannot be cut")
        transaction.on_commit(lambda: enqueue_measuring(recording.pk))
    recording.refresh_from_db()
    return recording


def _checked(recording: Recording, edits: Mapping[str, Any]) -> dict[str, Any]:
    """The given edits, validated and sorted."""
    made, duration_s = dict(edits), recording.duration_s or 0.0
    for name, checked in (
        ("cuts", checked_cuts),
        ("inserts", checked_inserts),
        ("markers", checked_markers),
        ("speakers", checked_speakers),
        ("repairs", checked_repairs),
    ):
        if name in made:
            made[name] = checked(made[name], duration_s)
    mono = made.get("mono", "")
    if mono and mono not in MONO_CHOICES:
        raise BadInput(f"mono: must be one of {', '.join(MONO_CHOICES)}, got {mono!r}", path="mono")
    if mono == "better":
        # Settled once, so that the choice is known and does not move with the cuts.
        made["mono"] = better_channel(open_audio(recording))
    return made


def set_ends(
    recording: Recording,
    head_s: float | None,
    tail_s: float | None,
    fade_in_s: float | None = None,
    fade_out_s: float | None = None,
    work_version: int | None = None,
) -> Recording:
    """Make the silence before the first word and after the last so long, and fades; None leaves it.

    What is too much is cut; what is missing is filled with room tone, that in use or the best found,
    which is then kept.

    Raises :class:`BadInput` when no voice or, for filling, no room tone is known.
    """
    measures = recording.measures or {}
    phrases = (measures.get("speech_events") or {}).get("phrases") or []
    if not phrases and (head_s is not None or tail_s is not None):
        raise BadInput(f"{recording.name}: no voice was found; cut head and tail by hand")
    now = ends = ends_of(recording)
    if head_s is not None:
        ends = ends.with_head(head_s - phrases[0]["start_s"])
    if tail_s is not None:
        ends = ends.with_tail(tail_s - (measures["duration_s"] - phrases[-1]["end_s"]))
    if ends.pad_start_s or ends.pad_end_s:
        _keep_found_tone(recording, now)
    edits = {"cuts": ends.cuts, "pad_start_s": ends.pad_start_s, "pad_end_s": ends.pad_end_s}
    for name, length_s in (("fade_in_s", fade_in_s), ("fade_out_s", fade_out_s)):
        if length_s is not None:
            edits[name] = length_s
    return set_edits(recording, edits, work_version)


def _keep_found_tone(recording: Recording, ends: Ends) -> None:
    """Make sure there is room tone to fill with: select the best found, if none is selected."""
    if recording.room_tone is not None:
        return
    found = (recording.measures or {}).get("found_room_tone")
    if not found:
        raise BadInput(f"{recording.name}: no room tone to fill with; mark a quiet stretch first")
    start_s, end_s = (ends.original_time(found[key]) for key in ("start_s", "end_s"))
    mark_room_tone(recording, start_s, end_s, "")


def tightened_pauses(recording: Recording, longest_s: float) -> list[dict[str, Any]]:
    """Pauses longer than ``longest_s`` and the cut that shortens each, in times of the original.

    Pauses that contain an insert are left out. Raises :class:`BadInput` for a recording that
    is not measured.
    """
    measures = recording.measures
    if measures is None:
        raise BadInput(f"{recording.name}: is not measured yet; wait until its figures are there")
    times = edit_times(as_file_edits(recording))
    inserted = [
        {"start_s": start_s, "end_s": start_s + insert["length_s"]}
        for insert in times.active_inserts
        for start_s in (times.edited(insert["at_s"]),)
    ]
    found = long_pauses(
        source_of(recording),
        longest_s,
        measures.get("voice_level_dbfs"),
        measures.get("noise_floor_dbfs"),
        inserted,
    )
    return [
        {
            "at_s": times.original(pause.span.start_s),
            "length_s": pause.span.duration_s,
            "cut": {
                "start_s": times.original(pause.cut.start_s),
                "end_s": times.original(pause.cut.end_s),
            },
        }
        for pause in found
    ]
