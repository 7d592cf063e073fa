"""Reading JSON documents that come from outside: recipes, targets, bodies of requests.

What Python's reader lets through but nothing here can keep or compute with is refused in one line:
numbers that are not finite, integers beyond 64 bits, half characters, deep nesting.
"""

from __future__ import annotations

import json
import math
from collections.abc import Iterator

from zesty_core.foundation.errors import BadInput, BadSetting

MOST_DEPTH = 40
_MOST_DIGITS = 18
_SHOWN = 20


def parse_document(text: str | bytes, name: str, expected: str = "") -> object:
    """JSON value of a document called ``name``; ``expected`` says what it should have been.

    Raises :class:`BadInput` for anything else, with the path of a text that cannot be kept.

    Parameters
    ----------
    text : str or bytes
        JSON, in UTF-8.
    name : str
        What errors call it.
    expected : str, optional
        What it should have been, for the error.

    Returns
    -------
    value : object
        What the JSON holds.

    Raises
    ------
    BadInput
        For text that is not JSON, or that cannot be kept.
    """
    try:
        value: object = json.loads(
            text, parse_constant=_constant, parse_float=_float, parse_int=_integer
        )
    except RecursionError:
        raise BadInput(f"{name}: is nested more than {MOST_DEPTH} deep") from None
    except ValueError as fault:
        kind = _kind_of(text)
        what = f" but {kind}" if kind else f": {fault}"
        should = f"; expected {expected}" if expected else ""
        raise BadInput(f"{name} is no JSON document{what}{should}") from None
    for path, depth, part in _parts(value):
        if depth > MOST_DEPTH:
            raise BadInput(f"{name}: is nested more than {MOST_DEPTH} deep")
        if isinstance(part, str) and not _can_be_kept(part):
            raise BadSetting(path or name, part, "holds a character that is none")
    return value


#: How files begin that are chosen by mistake, and what they are.
_STARTS = (
    (b"RIFF", "a sound file"),
    (b"RF64", "a sound file"),
    (b"FORM", "a sound file"),
    (b"fLaC", "a sound file"),
    (b"OggS", "a sound file"),
    (b"ID3", "a sound file"),
    (b"\xff\xfb", "a sound file"),
    (b"PK\x03\x04", "an archive"),
    (b"%PDF", "a PDF document"),
    (b"\x89PNG", "a picture"),
    (b"\xff\xd8\xff", "a picture"),
    (b"<", "a web page or an XML document"),
)


def _kind_of(text: str | bytes) -> str:
    """What a text that is no JSON is; empty where it looks like JSON with a mistake in it."""
    data = text.encode("utf-8", "replace") if isinstance(text, str) else text
    start = data[:512].lstrip()
    if not start:
        return "an empty file"
    kind = next((kind for mark, kind in _STARTS if start.startswith(mark)), "")
    if kind or start[:1] in b"{[":
        return kind
    if start[4:8] == b"ftyp":
        return "a sound or video file"
    return "a binary file" if b"\0" in start else "a text of another kind"


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
