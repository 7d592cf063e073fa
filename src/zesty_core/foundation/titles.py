"""Name and description of a document that people pass on, as every database and page can hold them."""

from __future__ import annotations

import unicodedata
from collections.abc import Mapping
from typing import Any

from zesty_core.foundation.errors import BadSetting

_MOST_NAME = 200
#: Categories of what is no letter, sign or space: control characters and halves of characters.
_NO_TEXT = ("Cc", "Cs")


def checked_titles(data: Mapping[str, Any]) -> tuple[str, str]:
    """Name and description of a document's JSON; raises :class:`BadSetting`."""
    name, description = data.get("name"), data.get("description", "")
    if not isinstance(name, str) or not 0 < len(name.strip()) <= _MOST_NAME:
        raise BadSetting("name", name, f"must be a text of 1 to {_MOST_NAME} letters")
    if not isinstance(description, str):
        raise BadSetting("description", description, "must be a text")
    _refuse_controls("name", name, besides="")
    _refuse_controls("description", description, besides="\n\r\t")
    return name.strip(), description


def _refuse_controls(path: str, text: str, besides: str) -> None:
    for char in text:
        if char not in besides and unicodedata.category(char) in _NO_TEXT:
            raise BadSetting(path, ascii(text), "must not hold control characters")
