"""Answers about a whole sound that take long to work out, kept beside it: it never changes."""

from __future__ import annotations

import json
import uuid
from collections.abc import Callable
from pathlib import Path
from typing import Any

from zesty_core import ENGINE_VERSION

Answer = dict[str, Any]


def kept_answer(folder: Path, name: str, make: Callable[[], Answer]) -> Answer:
    """What ``make`` answered the first time; ``name`` tells what was asked and of what."""
    path = folder / f"{name}, {ENGINE_VERSION}.json"
    try:
        kept: Answer = json.loads(path.read_bytes())
        return kept
    except (OSError, ValueError):
        answer = make()
    keep_json(path, answer)
    return answer


def keep_json(path: Path, value: Answer) -> None:
    """Write it whole, or leave what is there: it can be worked out again. Several may do so at once."""
    part = path.with_name(f"{uuid.uuid4().hex}.part")
    try:
        part.write_text(json.dumps(value, allow_nan=False))
        part.replace(path)
    except OSError:
        part.unlink(missing_ok=True)
