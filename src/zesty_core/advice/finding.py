"""What a finding is."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Any


@dataclass(frozen=True)
class Act:
    """The one thing to click: ``kind`` says what, ``with_`` what with.

    Kinds: ``add_step`` (a step as in a recipe), ``go_to`` (a time), ``mono`` (a choice of channel),
    ``mark_room_tone`` (nothing more); of a chain ``move_step`` (from and to which place),
    ``set_params`` (of the step at a place).
    """

    kind: str
    text: str
    with_: dict[str, Any] = field(default_factory=dict)

    def as_json(self) -> dict[str, Any]:
        """JSON object."""
        return {"kind": self.kind, "text": self.text, "with": self.with_}


@dataclass(frozen=True)
class Finding:
    """One short finding: a stable ``code``, the words with their figures, where, and what to do."""

    code: str
    text: str
    act: Act | None = None
    at_s: tuple[float, ...] = ()
    #: Place in the chain; None for findings about a recording.
    at_step: int | None = None

    def as_json(self) -> dict[str, Any]:
        """JSON object."""
        return {
            "code": self.code,
            "text": self.text,
            "act": self.act.as_json() if self.act else None,
            "at_s": [round(t, 3) for t in self.at_s],
            "at_step": self.at_step,
        }


_HYPHEN_FOR_MINUS = re.compile(r"(?<!\w)-(?=\d)")


def with_minus(text: str) -> str:
    """Words with a true minus sign before their figures."""
    return _HYPHEN_FOR_MINUS.sub("\u2212", text)


def add_step(text: str, type_: str, **params: Any) -> Act:
    """Act that adds a step to the chain."""
    return Act("add_step", text, {"type": type_, "enabled": True, "params": params})
