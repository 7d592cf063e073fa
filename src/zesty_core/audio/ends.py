"""Head and tail of a recording: how much is cut there, how much room tone is added."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from zesty_core.errors import BadInput

LONGEST_PAD_S = 30.0


@dataclass(frozen=True)
class Ends:
    """Cuts in seconds of the original, and seconds added before and after what they leave."""

    cuts: Sequence[dict[str, float]]
    pad_start_s: float
    pad_end_s: float
    duration_s: float

    @property
    def left_s(self) -> float:
        """Length after cuts, without what is added."""
        return self.duration_s - sum(cut["end_s"] - cut["start_s"] for cut in self.cuts)

    def original_time(self, time_s: float) -> float:
        """Time in the original of a time in what is heard."""
        at = min(max(0.0, time_s - self.pad_start_s), self.left_s)
        for cut in self.cuts:
            if at < cut["start_s"]:
                break
            at += cut["end_s"] - cut["start_s"]
        return at

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


def _checked(pad_s: float, path: str) -> float:
    if pad_s > LONGEST_PAD_S:
        raise BadInput(
            f"{path}: would add {pad_s:.1f} s of room tone; at most {LONGEST_PAD_S:.0f} s are added",
            path=path,
        )
    return round(pad_s, 6)
