"""Names of delivered files from a pattern: ``{show}-{take:02}-{title}``.

Fields are title, show (a recording's group), label, take, recipe, target, date, number (its place in
the set) and original (name of the file it came as). ``:02`` pads a number with zeros. What no file
system takes becomes a hyphen.
"""

from __future__ import annotations

import re
import string
from collections.abc import Iterable, Mapping

from zesty_core.foundation.errors import BadSetting

FIELDS = ("title", "show", "label", "take", "recipe", "target", "date", "number", "original")
DEFAULT_PATTERN = "{title}"
_MOST_LETTERS = 120
_FORBIDDEN = re.compile(r'[/\\:*?"<>|\x00-\x1f]+')
_RESERVED = {"con", "prn", "aux", "nul", *(f"{p}{n}" for p in ("com", "lpt") for n in range(1, 10))}
_PADDED = re.compile(r"^0?\d{1,2}$")


def checked_pattern(pattern: str) -> str:
    """The pattern, or :class:`BadSetting` saying what is wrong with it."""
    try:
        parts = list(string.Formatter().parse(pattern))
    except ValueError as fault:
        raise BadSetting("name_pattern", pattern, f"cannot be read: {fault}") from None
    if not pattern.strip() or len(pattern) > _MOST_LETTERS:
        raise BadSetting("name_pattern", pattern[:40], f"must have 1 to {_MOST_LETTERS} letters")
    for _, field, form, conversion in parts:
        if field is None:
            continue
        if field not in FIELDS or conversion:
            raise BadSetting(
                "name_pattern", f"{{{field}}}", f"knows the fields {', '.join(FIELDS)}"
            )
        if form and not _PADDED.match(form):
            raise BadSetting("name_pattern", f"{{{field}:{form}}}", "can pad only like {take:02}")
    return pattern


def file_name(pattern: str, values: Mapping[str, object]) -> str:
    """Name without its ending; never empty, never a path."""
    made = []
    for text, field, form, _ in string.Formatter().parse(checked_pattern(pattern)):
        made.append(text)
        if field is not None:
            made.append(_filled(values.get(field), form or ""))
    # "Hide guide: causeway" reads on as "Hide guide - causeway".
    name = _FORBIDDEN.sub("-", re.sub(r"\s*:\s+", " - ", "".join(made)))
    # Separators around what is empty would be left dangling.
    name = re.sub(r"\s+", " ", re.sub(r"([-_ ])[-_ ]+(?=[-_])", r"\1", name)).strip(" .-_")
    name = name[:_MOST_LETTERS].rstrip(" .")
    return f"{name or 'recording'}{'-' if name.casefold() in _RESERVED else ''}"


def filled_text(text: str, values: Mapping[str, object]) -> str:
    """Text of a tag with the fields of names filled in; other braces stay as they are."""
    for field in FIELDS:
        value = values.get(field)
        text = text.replace(f"{{{field}}}", "" if value is None else str(value))
    return text


def without_collisions(names: Iterable[str], taken: Iterable[str] = ()) -> list[str]:
    """Names with a number added where one is taken already; capitals do not tell names apart."""
    used = {name.casefold() for name in taken}
    made = []
    for name in names:
        free, count = name, 1
        while free.casefold() in used:
            count += 1
            free = f"{name} {count}"
        used.add(free.casefold())
        made.append(free)
    return made


def _filled(value: object, form: str) -> str:
    text = "" if value is None else str(value)
    return text.zfill(int(form)) if form and text.isdecimal() else text
