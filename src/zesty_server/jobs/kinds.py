"""Kinds of background work. Each app announces its own, so that nobody here imports them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.db.models import QuerySet

from zesty_server.jobs.models import Job


@dataclass(frozen=True)
class Kind:
    """A kind of background work."""

    model: type[Job]
    #: Puts the work with this id into the queue.
    enqueue: Callable[[Any], None]
    #: Rows whose waiting is meant: such of a paused batch are not among them.
    wanted: Callable[[], QuerySet[Any]]
    #: Folder that holds what tries have made of a row; None where nothing has to go.
    home: Callable[[Any], Path | None] = lambda job: None
    #: Starts what should have begun by itself but for a worker that died just before.
    start_overdue: Callable[[], None] = lambda: None


_kinds: dict[type[Job], Kind] = {}


def register_kind(kind: Kind) -> None:
    """Announce a kind; once for each model."""
    _kinds[kind.model] = kind


def kinds() -> tuple[Kind, ...]:
    """All that were announced."""
    return tuple(_kinds.values())
