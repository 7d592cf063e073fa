"""Numbers in requests, within what can be kept and computed with."""

from __future__ import annotations

import math
from typing import Any

from rest_framework import serializers

#: Of the integers that every database keeps.
MOST_WHOLE = 2**31 - 1
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
    """A whole number that every database keeps."""

    def __init__(self, **options: Any) -> None:
        options.setdefault("max_value", MOST_WHOLE)
        options.setdefault("min_value", -MOST_WHOLE)
        super().__init__(**options)
