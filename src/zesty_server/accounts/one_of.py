"""Choosing one of the rows that may be seen, in a request."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.db.models import QuerySet
from rest_framework import serializers


class OneOf(serializers.PrimaryKeyRelatedField[Any]):
    """A row by its id, looked for anew at each request: a queryset made once would have been made
    for everybody.

    ``rows`` gives what there is to choose from.
    """

    def __init__(self, rows: Callable[[], QuerySet[Any]], **more: Any) -> None:
        self._rows = rows
        super().__init__(queryset=rows(), **more)

    def get_queryset(self) -> QuerySet[Any]:
        """What there is now, for who is asking."""
        return self._rows()
