"""Settings of each step to start from, named by what they are for. Common practice, no source."""

from __future__ import annotations

from typing import Any

from zesty_core.foundation.settings import Declared
from zesty_core.steps.registry import STEP_TYPES


def starter_settings(kind: str) -> list[dict[str, Any]]:
    """Name and all settings of each, for a kind of step; most calm first."""
    made: type[Declared] = STEP_TYPES[kind]
    return [
        {"name": name, "params": made.from_params(params).as_params()}
        for name, params in STEP_TYPES[kind].starters.items()
    ]
