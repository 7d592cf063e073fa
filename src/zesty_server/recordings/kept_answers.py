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
    part = path.with_name(f"{uuid.uuid4().hex}.part")
    try:
        part.write_text(json.dumps(answer, allow_nan=False))
        part.replace(path)
    except OSError:
        # It is worked out again next time.
        part.unlink(missing_ok=True)
    return answer
