"""For migrations: brings kept JSON up to this version, row by row."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

_ROWS = 200


def rewrite(model: Any, fields: tuple[str, ...], made_of: Callable[[Any], Any]) -> None:
    """Replace the fields of all rows by what ``made_of`` makes of them, where that differs."""
    waiting = []
    for row in model.objects.only("pk", *fields).iterator(_ROWS):
        changed = False
        for field in fields:
            before = getattr(row, field)
            after = made_of(before)
            if after != before:
                setattr(row, field, after)
                changed = True
        if changed:
            waiting.append(row)
        if len(waiting) == _ROWS:
            model.objects.bulk_update(waiting, fields)
            waiting = []
    model.objects.bulk_update(waiting, fields)
