"""Converts between times of the original and of the edited recording."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from zesty_core.foundation.signal import Spans


@dataclass(frozen=True)
class EditTimes:
    """Cuts (in order, without overlaps) and inserts, both in seconds of the original."""

    cuts: Spans = ()
    inserts: Spans = ()
    pad_start_s: float = 0.0

    @cached_property
    def active_inserts(self) -> list[Mapping[str, Any]]:
        """Inserts in order, without those inside a cut; an insert at the edge of a cut stays."""
        return sorted(
            (i for i in self.inserts if not self._is_cut(i["at_s"])), key=lambda i: i["at_s"]
        )

    def edited(self, time_s: float) -> float:
        """Edited time; inside a cut the time of the join, at an insert its start."""
        inserted_s: float = sum(i["length_s"] for i in self.active_inserts if i["at_s"] < time_s)
        return self.pad_start_s + self.left_before(time_s) + inserted_s

    def original(self, edited_s: float) -> float:
        """Original time; at a join the end of the cut, inside an insert its position."""
        left_s = max(0.0, edited_s - self.pad_start_s)
        for insert in self.active_inserts:
            place_s = self.left_before(insert["at_s"])
            if left_s <= place_s:
                break
            left_s = max(place_s, left_s - insert["length_s"])
        time_s = left_s
        for cut in self.cuts:
            if time_s < cut["start_s"]:
                break
            time_s += cut["end_s"] - cut["start_s"]
        return time_s

    def left_before(self, time_s: float) -> float:
        """Duration that the cuts leave before a time of the original."""
        gone_s = 0.0
        for cut in self.cuts:
            if time_s <= cut["start_s"]:
                break
            gone_s += min(time_s, cut["end_s"]) - cut["start_s"]
        return time_s - gone_s

    def _is_cut(self, time_s: float) -> bool:
        return any(cut["start_s"] < time_s < cut["end_s"] for cut in self.cuts)
