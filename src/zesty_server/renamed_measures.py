"""For migrations: gives kept measures the names of the trade."""

from __future__ import annotations

from typing import Any

from zesty_server.rewriting import rewrite

_KEYS = {
    "moves_db": "level_spread_db",
    "louder_room": "noise_floor_shift",
    "moments": "speech_events",
}


def renamed(value: Any) -> Any:
    """The same JSON value with the new keys, and the new code of the finding."""
    if isinstance(value, list):
        return [renamed(one) for one in value]
    if isinstance(value, dict):
        return {_KEYS.get(key, key): renamed(one) for key, one in value.items()}
    return _KEYS.get(value, value) if isinstance(value, str) else value


def rename_in(model: Any, fields: tuple[str, ...]) -> None:
    """Rewrite the fields of all rows that have an old name in them."""
    rewrite(model, fields, renamed)
