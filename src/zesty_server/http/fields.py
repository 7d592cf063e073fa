"""Numbers in requests, within what can be kept and computed with."""

from __future__ import annotations

import math
from typing import Any

from rest_framework import serializers

#: Largest integer that every database keeps in a column of the usual kind.
MOST_KEPT = 2**31 - 1
#: Largest integer that the page's language counts exactly.
_MOST_EXACT = 2**53 - 1
_LARGEST = 1e9


class NumberField(serializers.FloatField):
    """A finite number; by default of at most a thousand million either way."""

    def __init__(self, **options: Any) -> None:
        options.setdefault("max_value", _LARGEST)
        options.setdefault("min_value", -_LARGEST)
        super().__init__(**options)

    def to_internal_value(self, data: Any) -> float:
        """Refuse what is no number even though it reads as one."""
        if isinstance(data, bool):
            self.fail("invalid")
        number = super().to_internal_value(data)
        if not math.isfinite(number):
            self.fail("invalid")
        return float(number)


class WholeField(serializers.IntegerField):
    """A whole number that is exact everywhere."""

    def __init__(self, **options: Any) -> None:
        options.setdefault("max_value", _MOST_EXACT)
        options.setdefault("min_value", -_MOST_EXACT)
        super().__init__(**options)
