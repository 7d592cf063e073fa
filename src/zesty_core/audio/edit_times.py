"""Times of a recording, and times of what is heard of it: cuts shorten it, inserts make it longer."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

Spans = Sequence[Mapping[str, Any]]


@dataclass(frozen=True)
class EditTimes:
    """Cuts in order, without overlaps, and inserts; both in seconds of the original."""

    cuts: Spans = ()
    inserts: Spans = ()
    pad_start_s: float = 0.0

    @property
    def heard_inserts(self) -> list[Mapping[str, Any]]:
        """Inserts in order. One that lies inside a cut goes with it; at the edge of a cut it stays."""
        return sorted(
            (i for i in self.inserts if not self._is_cut(i["at_s"])), key=lambda i: i["at_s"]
        )

    def heard(self, time_s: float) -> float:
        """Time in what is heard; inside a cut that of the join, at an insert its beginning."""
        put_in_s: float = sum(i["length_s"] for i in self.heard_inserts if i["at_s"] < time_s)
        return self.pad_start_s + self.left_before(time_s) + put_in_s

    def original(self, heard_s: float) -> float:
        """Time in the original; at a join that behind the cut, inside an insert that of its place."""
        left_s = max(0.0, heard_s - self.pad_start_s)
        for insert in self.heard_inserts:
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
        """How much of the recording before a time the cuts leave."""
        gone_s = 0.0
        for cut in self.cuts:
            if time_s <= cut["start_s"]:
                break
            gone_s += min(time_s, cut["end_s"]) - cut["start_s"]
        return time_s - gone_s

    def _is_cut(self, time_s: float) -> bool:
        return any(cut["start_s"] < time_s < cut["end_s"] for cut in self.cuts)
