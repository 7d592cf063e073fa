"""Keeping targets."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from zesty_core.foundation.documents import parse_document
from zesty_core.foundation.errors import BadInput, BadSetting
from zesty_core.targets.document import EXPECTED, MOST_BYTES
from zesty_core.targets.document import Target as Document
from zesty_core.targets.starters import STARTERS
from zesty_server.targets.models import Target


@transaction.atomic
def save_target(data: dict[str, Any], target: Target | None = None) -> Target:
    """Keep a new target, or change one; raises :class:`BadSetting` with the fault's path."""
    document = Document.from_json({"format": "zesty-target", "version": 1, **data})
    taken = Target.objects.filter(name=document.name)
    if target is not None:
        taken = taken.exclude(pk=target.pk)
    if taken.exists():
        raise BadSetting("name", document.name, "is taken by another target")
    target = target or Target()
    made = document.as_json()
    for field in ("name", "description", "bounds", "file"):
        setattr(target, field, made[field])
    target.save()
    return target


def import_target(text: bytes, file_name: str) -> Target:
    """Keep the target of a document; a number is added to a name that is taken."""
    if len(text) > MOST_BYTES:
        raise BadInput(f"{file_name} is larger than a target can be (100 kB)")
    document = Document.from_json(parse_document(text, file_name, EXPECTED))
    name, count = document.name, 1
    while Target.objects.filter(name=name).exists():
        count += 1
        name = f"{document.name} {count}"
    return save_target({**_kept(document), "name": name})


def add_starters(**_: object) -> None:
    """Put the targets to start from into a library that has none."""
    if not Target.objects.exists():
        for document in STARTERS:
            save_target(_kept(document))


def _kept(document: Document) -> dict[str, Any]:
    made = document.as_json()
    return {field: made[field] for field in ("name", "description", "bounds", "file")}
