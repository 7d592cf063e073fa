"""Whose rows are seen, and whose new ones are.

Every request sees the rows of the account that is signed in, whatever a view asks for. Workers and the
command line see all, and so does everybody where accounts are off.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any, TypeVar

from django.db import models

_Row = TypeVar("_Row", bound=models.Model)

#: No account: all rows are seen, and new ones belong to nobody.
EVERYONE = None
#: Somebody who is not signed in; no account has this id.
NOBODY = 0

_seen_by: ContextVar[int | None] = ContextVar("seen_by", default=EVERYONE)


@contextmanager
def seen_by(account_id: int | None) -> Iterator[None]:
    """See only what this account owns; what is made meanwhile is its own."""
    before = _seen_by.set(account_id)
    try:
        yield
    finally:
        _seen_by.reset(before)


def parts_seen_by(account_id: int | None, parts: Iterable[Any]) -> Iterator[Any]:
    """The parts of an answer, each made as that account sees things."""
    made = iter(parts)
    while True:
        with seen_by(account_id):
            try:
                part = next(made)
            except StopIteration:
                return
        yield part


def owner_of_new_rows() -> int | None:
    """Id of the account at work; None where nobody is named."""
    return _seen_by.get() or None


class OwnedManager(models.Manager[_Row]):
    """Gives only rows that may be seen. The model's ``owned_by`` names the way to their owner."""

    def get_queryset(self) -> models.QuerySet[_Row]:
        """All of them, less those of others."""
        rows = super().get_queryset()
        account_id = _seen_by.get()
        if account_id is EVERYONE:
            return rows
        return rows.filter(**{self.model.owned_by: account_id})  # type: ignore[attr-defined]
