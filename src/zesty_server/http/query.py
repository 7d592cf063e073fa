"""Ids in the query of an address."""

from __future__ import annotations

import uuid

from rest_framework.request import Request

from zesty_core.foundation.errors import BadInput


def queried_id(request: Request, name: str) -> uuid.UUID | None:
    """The id asked for by ``name``; None when none was. Raises :class:`BadInput` for anything else."""
    given = request.query_params.get(name)
    return checked_id(given, name) if given else None


def checked_id(given: str, name: str) -> uuid.UUID:
    """An id as it was given; raises :class:`BadInput` for anything else."""
    try:
        return uuid.UUID(given)
    except ValueError:
        raise BadInput(f"{name}: must be an id, got {given}", path=name) from None
