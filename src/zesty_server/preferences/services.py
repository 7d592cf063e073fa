"""Changing preferences."""

from __future__ import annotations

from typing import Any

from zesty_server.preferences.models import Preferences
from zesty_server.preferences.selectors import preferences


def change_preferences(changes: dict[str, Any]) -> Preferences:
    """Set ``recipe``, ``run_at_once`` or ``target``; what came in before stays as it is."""
    kept = preferences()
    for name, value in changes.items():
        setattr(kept, name, value)
    kept.save()
    return kept
