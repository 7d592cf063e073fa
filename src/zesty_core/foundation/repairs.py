"""Events of repairs that a person has refused or added."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from zesty_core.foundation.errors import BadInput

MOST_SPANS = 2000
_LONGEST_TYPE = 40
_FIELDS = ("refused", "added")


@dataclass(frozen=True)
class RepairSpan:
    """A stretch in seconds, and the type of the step that it concerns."""

    type: str
    start_s: float
    end_s: float


@dataclass(frozen=True)
class Repairs:
    """What repairs are to leave alone, and what they are to mend although they did not find it."""

    refused: tuple[RepairSpan, ...] = ()
    added: tuple[RepairSpan, ...] = ()

    def of(self, type_: str, sample_rate_hz: int) -> dict[str, list[list[int]]]:
        """Spans of one type of step, in samples."""
        return {
            name: [
                [round(span.start_s * sample_rate_hz), round(span.end_s * sample_rate_hz)]
                for span in getattr(self, name)
                if span.type == type_
            ]
            for name in _FIELDS
        }

    def as_json(self) -> dict[str, Any]:
        """JSON object."""
        return {name: [asdict(span) for span in getattr(self, name)] for name in _FIELDS}

    @classmethod
    def from_json(cls, value: object) -> Repairs:
        """What :meth:`as_json` made, or a person wrote.

        Raises
        ------
        BadInput
            Names the place that is wrong and what is allowed.
        """
        if not isinstance(value, Mapping) or not set(value) <= set(_FIELDS):
            raise BadInput("repairs: is no object with refused and added", path="repairs")
        return cls(**{name: _spans(value.get(name, []), name) for name in _FIELDS})


def _spans(value: object, name: str) -> tuple[RepairSpan, ...]:
    if not isinstance(value, list) or len(value) > MOST_SPANS:
        raise BadInput(f"repairs: {name} is a list of up to {MOST_SPANS} spans", path=name)
    return tuple(_span(row, name, at) for at, row in enumerate(value))


def _span(row: object, name: str, at: int) -> RepairSpan:
    path = f"{name}.{at}"
    if not isinstance(row, Mapping) or set(row) != {"type", "start_s", "end_s"}:
        raise BadInput(f"repairs: {path} is no object with type, start_s and end_s", path=path)
    type_, start_s, end_s = row["type"], row["start_s"], row["end_s"]
    if not isinstance(type_, str) or not 1 <= len(type_) <= _LONGEST_TYPE:
        raise BadInput(f"repairs: type of {path} is {type_!r}; a type of step is wanted", path=path)
    numbers = all(
        isinstance(v, int | float) and not isinstance(v, bool) and math.isfinite(v)
        for v in (start_s, end_s)
    )
    if not numbers or not 0 <= start_s < end_s:
        raise BadInput(
            f"repairs: {path} is from {start_s!r} to {end_s!r} s; it must begin at 0 s or later and "
            "end after that",
            path=path,
        )
    return RepairSpan(type_, float(start_s), float(end_s))
