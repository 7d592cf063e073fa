"""Files of a set that needed something else than the others."""

from __future__ import annotations

import statistics
from collections.abc import Mapping, Sequence
from typing import Any

#: Fewer files have no usual treatment.
_LEAST_FILES = 3
#: So far from the middle of the set is worth a look (own choice; takes of one session differ by less).
_FAR_DB = 6.0
_LOOKED_AT = (
    ("integrated_lufs", "gain", True),
    ("clearance_db", "clearance", False),
)


def outliers(runs: Sequence[tuple[Mapping[str, Any], Mapping[str, Any]] | None]) -> list[list[str]]:
    """What is unusual about each of (before, after), in words; nothing for most.

    An entry of None (not done) is passed over. Compared with the median of the set.
    """
    said: list[list[str]] = [[] for _ in runs]
    for name, words, is_level in _LOOKED_AT:
        moved = [_moved(run, name) for run in runs]
        known = [v for v in moved if v is not None]
        if len(known) < _LEAST_FILES:
            continue
        middle = statistics.median(known)
        for at, value in enumerate(moved):
            if value is None or abs(value - middle) < _FAR_DB:
                continue
            more = "more" if value > middle else "less"
            said[at].append(
                f"needed {abs(value - middle):.1f} dB {more} {words} than is usual here"
                if is_level
                else f"gained {abs(value - middle):.1f} dB {more} {words} than is usual here"
            )
    return said


def _moved(run: tuple[Mapping[str, Any], Mapping[str, Any]] | None, name: str) -> float | None:
    if run is None:
        return None
    before, after = (side.get(name) for side in run)
    return None if before is None or after is None else float(after) - float(before)
