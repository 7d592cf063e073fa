"""Intros and outros: beds that targets name, with overlap and level."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.core.exceptions import ValidationError
from django.db.models import Q

from zesty_core.delivery.end_pieces import EndPiece
from zesty_core.foundation.errors import BadInput
from zesty_server.beds.models import Bed
from zesty_server.targets.models import Target

PLACES = ("intro", "outro")


def end_piece(asked: Mapping[str, Any] | None) -> EndPiece | None:
    """The sound of ``{bed, overlap_s, level_lu}``; raises :class:`BadInput` where it cannot be had."""
    if asked is None:
        return None
    try:
        bed = Bed.objects.filter(pk=asked["bed"]).first()
    except ValidationError:
        bed = None
    if bed is None or not bed.path.exists():
        raise BadInput("The music of the intro or outro was deleted; choose another")
    overlap_s, level_lu = float(asked["overlap_s"]), float(asked["level_lu"])
    return EndPiece.checked(bed.path, bed.name, overlap_s, level_lu)


def set_end_pieces(target: Target, asked: Mapping[str, Any]) -> Target:
    """Set intro and outro of a target; a missing key leaves it, null removes it."""
    changed = [place for place in PLACES if place in asked]
    for place in changed:
        end_piece(asked[place])
        kept = asked[place] and {**asked[place], "bed": str(asked[place]["bed"])}
        setattr(target, place, kept)
    if changed:
        target.save(update_fields=changed)
    return target


def end_piece_sentence(target: Target, place: str) -> str | None:
    """The intro or outro of a target in words; None where there is none."""
    asked = getattr(target, place)
    if asked is None:
        return None
    name = Bed.objects.filter(pk=asked["bed"]).values_list("name", flat=True).first()
    overlap_s, level_lu = asked["overlap_s"], asked["level_lu"]
    return (
        f"{place.capitalize()} \u201c{name or 'deleted'}\u201d, {overlap_s:g} s overlap, "
        f"{level_lu:+g} LU relative to the voice"
    )


def refuse_if_in_use(bed: Bed, **_: object) -> None:
    """Receive the removal of a bed.

    Raises :class:`BadInput` while a target names the bed as intro or outro.
    """
    named = Target.objects.filter(Q(intro__bed=str(bed.pk)) | Q(outro__bed=str(bed.pk))).first()
    if named:
        raise BadInput(f"{bed.name}: is used by the target {named.name}; remove it there first")
