"""Head and tail of a recording: how much is cut there, how much room tone is added."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from zesty_core.audio.edit_times import EditTimes
from zesty_core.foundation.errors import BadInput

LONGEST_PAD_S = 30.0


@dataclass(frozen=True)
class Ends:
    """Cuts in seconds of the original, and seconds added before and after what they leave."""

    cuts: Sequence[dict[str, float]]
    pad_start_s: float
    pad_end_s: float
    duration_s: float
    inserts: Sequence[dict[str, Any]] = ()

    def original_time(self, time_s: float) -> float:
        """Time in the original of a time in what is heard."""
        times = EditTimes(merged(self.cuts), self.inserts, self.pad_start_s)
        return min(self.duration_s, times.original(time_s))

    def with_head(self, more_s: float) -> Ends:
        """Longer head by ``more_s``, or shorter: added tone goes before anything is cut."""
        pad_s = _checked(self.pad_start_s + more_s, "head_s")
        if pad_s >= 0:
            return replace(self, pad_start_s=pad_s)
        edge_s = replace(self, pad_start_s=0.0).original_time(-pad_s)
        return replace(self, pad_start_s=0.0, cuts=[*self.cuts, {"start_s": 0.0, "end_s": edge_s}])

    def with_tail(self, more_s: float) -> Ends:
        """Longer tail by ``more_s``, or shorter: added tone goes before anything is cut."""
        pad_s = _checked(self.pad_end_s + more_s, "tail_s")
        if pad_s >= 0:
            return replace(self, pad_end_s=pad_s)
        # The head may have been cut just now, so its end is counted from the back.
        gone_s = sum(c["end_s"] - c["start_s"] for c in self.cuts if c["end_s"] >= self.duration_s)
        edge_s = self.duration_s - gone_s + pad_s
        return replace(
            self,
            pad_end_s=0.0,
            cuts=[*self.cuts, {"start_s": edge_s, "end_s": self.duration_s}],
        )


def merged(cuts: Sequence[dict[str, float]]) -> list[dict[str, float]]:
    """Cuts in order, those that touch as one."""
    made: list[dict[str, float]] = []
    for cut in sorted(cuts, key=lambda c: c["start_s"]):
        if made and cut["start_s"] <= made[-1]["end_s"]:
            made[-1]["end_s"] = max(made[-1]["end_s"], cut["end_s"])
        else:
            made.append(dict(cut))
    return made


def _checked(pad_s: float, path: str) -> float:
    if pad_s > LONGEST_PAD_S:
        raise BadInput(
            f"{path}: would add {pad_s:.1f} s of room tone; at most {LONGEST_PAD_S:.0f} s are added",
            path=path,
        )
    return round(pad_s, 6)
