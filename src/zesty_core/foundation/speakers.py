"""Who speaks when: names of speakers and their turns."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from zesty_core.foundation.errors import BadInput

MOST_SPEAKERS = 6
_MOST_TURNS = 20_000
_LONGEST_NAME = 60


@dataclass(frozen=True)
class Turn:
    """A stretch in which one speaker speaks, in seconds; ``speaker`` counts from 0."""

    start_s: float
    end_s: float
    speaker: int


@dataclass(frozen=True)
class Speakers:
    """Names, and turns in order of time that do not overlap."""

    names: tuple[str, ...]
    turns: tuple[Turn, ...]

    def as_json(self) -> dict[str, Any]:
        """JSON object."""
        return {"names": list(self.names), "turns": [asdict(turn) for turn in self.turns]}

    @classmethod
    def from_json(cls, value: object) -> Speakers:
        """What :meth:`as_json` made, or a person wrote.

        Raises
        ------
        BadInput
            Names the place that is wrong and what is allowed.
        """
        if not isinstance(value, Mapping) or set(value) != {"names", "turns"}:
            raise BadInput("speakers: is no object with names and turns", path="speakers")
        return cls(_names(value["names"]), _turns(value["turns"], len(value["names"])))


def usual_names(count: int) -> tuple[str, ...]:
    """Names where nobody has given any."""
    return tuple(f"Speaker {number + 1}" for number in range(count))


def _names(value: object) -> tuple[str, ...]:
    if not isinstance(value, list) or not 1 <= len(value) <= MOST_SPEAKERS:
        raise BadInput(f"speakers: names are a list of 1 to {MOST_SPEAKERS}", path="names")
    for at, name in enumerate(value):
        if not isinstance(name, str) or not 1 <= len(name.strip()) <= _LONGEST_NAME:
            raise BadInput(
                f"speakers: name {at + 1} is {name!r}; 1 to {_LONGEST_NAME} characters are allowed",
                path=f"names.{at}",
            )
    return tuple(name.strip() for name in value)


def _turns(value: object, speakers: int) -> tuple[Turn, ...]:
    if not isinstance(value, list) or len(value) > _MOST_TURNS:
        raise BadInput(f"speakers: turns are a list of at most {_MOST_TURNS}", path="turns")
    turns: list[Turn] = []
    for at, row in enumerate(value):
        turn = _turn(row, f"turns.{at}", speakers)
        if turns and turn.start_s < turns[-1].end_s:
            raise BadInput(
                f"speakers: turn {at + 1} begins at {turn.start_s:g} s, before the one before it ends "
                f"({turns[-1].end_s:g} s)",
                path=f"turns.{at}.start_s",
            )
        turns.append(turn)
    return tuple(turns)


def _turn(row: object, path: str, speakers: int) -> Turn:
    if not isinstance(row, Mapping) or set(row) != {"start_s", "end_s", "speaker"}:
        raise BadInput(f"speakers: {path} needs start_s, end_s and speaker", path=path)
    start_s, end_s, speaker = row["start_s"], row["end_s"], row["speaker"]
    for value in (start_s, end_s):
        if (
            isinstance(value, bool)
            or not isinstance(value, int | float)
            or not math.isfinite(value)
        ):
            raise BadInput(f"speakers: {path} holds {value!r}; seconds are numbers", path=path)
    if not 0.0 <= start_s < end_s:
        raise BadInput(
            f"speakers: {path} goes from {start_s:g} to {end_s:g} s; it must start at 0 or later and "
            "end later",
            path=path,
        )
    if isinstance(speaker, bool) or not isinstance(speaker, int) or not 0 <= speaker < speakers:
        raise BadInput(
            f"speakers: {path} is of speaker {speaker!r}; 0 to {speakers - 1} are allowed",
            path=path,
        )
    return Turn(float(start_s), float(end_s), speaker)
