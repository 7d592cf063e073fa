"""Reading JSON documents that come from outside: recipes, targets, bodies of requests.

What Python's reader lets through but nothing here can keep or compute with is refused in one line:
numbers that are not finite, integers beyond 64 bits, half characters, deep nesting.
"""

from __future__ import annotations

import json
import math
from collections.abc import Iterator

from zesty_core.errors import BadInput, BadSetting

MOST_DEPTH = 40
_MOST_DIGITS = 18
_SHOWN = 20


def parse_document(text: str | bytes, name: str) -> object:
    """JSON value of a document called ``name``.

    Raises :class:`BadInput` for anything else, with the path of a text that cannot be kept.
    """
    try:
        value: object = json.loads(
            text, parse_constant=_constant, parse_float=_float, parse_int=_integer
        )
    except RecursionError:
        raise BadInput(f"{name}: is nested more than {MOST_DEPTH} deep") from None
    except ValueError as fault:
        raise BadInput(f"{name} is no JSON document: {fault}") from None
    for path, depth, part in _parts(value):
        if depth > MOST_DEPTH:
            raise BadInput(f"{name}: is nested more than {MOST_DEPTH} deep")
        if isinstance(part, str) and not _can_be_kept(part):
            raise BadSetting(path or name, part, "holds a character that is none")
    return value


def _constant(text: str) -> float:
    raise ValueError(f"{text} is no number in JSON")


def _float(text: str) -> float:
    number = float(text)
    if not math.isfinite(number):
        raise ValueError(f"{text[:_SHOWN]} is too large a number")
    return number


def _integer(text: str) -> int:
    if len(text.lstrip("-")) > _MOST_DIGITS:
        raise ValueError(f"a whole number of {len(text)} digits is too large")
    return int(text)


def _parts(value: object) -> Iterator[tuple[str, int, object]]:
    """Every value inside, keys included, with its path and depth; without recursion."""
    open_parts: list[tuple[str, int, object]] = [("", 0, value)]
    while open_parts:
        path, depth, part = open_parts.pop()
        yield path, depth, part
        if isinstance(part, dict):
            prefix = f"{path}." if path else ""
            for key, inner in part.items():
                open_parts += [(path, depth + 1, key), (f"{prefix}{key}", depth + 1, inner)]
        elif isinstance(part, list):
            open_parts += [(f"{path}[{i}]", depth + 1, inner) for i, inner in enumerate(part)]


def _can_be_kept(text: str) -> bool:
    """Whether databases and files take it."""
    return "\0" not in text and not any("\ud800" <= letter <= "\udfff" for letter in text)
