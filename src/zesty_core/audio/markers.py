"""Markers of a recording, and the chapters they define in the edited recording."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from zesty_core.audio.edit_times import EditTimes
from zesty_core.foundation.errors import BadInput

MOST_MARKERS = 500
MOST_LETTERS = 120
#: A chapter is at least so long; a marker nearer to an end or to the one before makes none.
LEAST_CHAPTER_S = 0.5


@dataclass(frozen=True)
class Chapter:
    """A named stretch of the edited recording."""

    start_s: float
    end_s: float
    name: str

    def as_json(self) -> dict[str, Any]:
        """JSON object."""
        return {"start_s": self.start_s, "end_s": self.end_s, "name": self.name}

    def later(self, by_s: float) -> Chapter:
        """The same chapter, shifted by ``by_s``."""
        return Chapter(self.start_s + by_s, self.end_s + by_s, self.name)


def checked_markers(
    markers: Sequence[Mapping[str, Any]], duration_s: float
) -> list[dict[str, Any]]:
    """Markers in order, one at each place; raises :class:`BadInput` for one that does not fit.

    Parameters
    ----------
    markers : sequence of mappings
        ``{"at_s": ..., "title": ...}``.
    duration_s : float
        Length of the recording.

    Returns
    -------
    markers : list of dict
        In order of time.

    Raises
    ------
    BadInput
        Naming the marker that does not fit.
    """
    if len(markers) > MOST_MARKERS:
        raise BadInput(
            f"markers: must be at most {MOST_MARKERS}, got {len(markers)}", path="markers"
        )
    by_place: dict[float, str] = {}
    for marker in markers:
        at_s, name = float(marker["at_s"]), str(marker["name"]).strip()
        if not 0.0 <= at_s <= duration_s:
            raise BadInput(
                f"marker {name!r}: must lie within 0 to {duration_s:.3f} s, got {at_s:.3f} s",
                path="markers",
            )
        if not name or len(name) > MOST_LETTERS or not name.isprintable():
            raise BadInput(
                f"marker at {at_s:.2f} s: its name must be one line of 1 to {MOST_LETTERS} letters, "
                f"got {name[:40]!r}",
                path="markers",
            )
        by_place[at_s] = name
    return [{"at_s": at_s, "name": by_place[at_s]} for at_s in sorted(by_place)]


def chapters_of(
    markers: Sequence[Mapping[str, Any]], times: EditTimes, edited_s: float, title: str
) -> list[Chapter]:
    """Chapters from marker to marker; the part before the first marker is called ``title``.

    ``edited_s`` is the length of the edited recording. Without markers there are no chapters.

    Parameters
    ----------
    markers : sequence of mappings
        In order of time.
    times : EditTimes
        From times of the recording to times of what is delivered.
    edited_s : float
        Length of the edited recording.
    title : str
        Of the part before the first marker.

    Returns
    -------
    chapters : list of Chapter
        Without a gap, up to the end.
    """
    if not markers:
        return []
    starts: list[tuple[float, str]] = []
    for marker in markers:
        at_s = times.edited(marker["at_s"])
        if starts and at_s - starts[-1][0] < LEAST_CHAPTER_S:
            starts.pop()  # the part between them was cut; the later marker names the chapter
        if edited_s - at_s >= LEAST_CHAPTER_S:
            starts.append((at_s, marker["name"]))
    if starts and starts[0][0] < LEAST_CHAPTER_S:
        starts[0] = (0.0, starts[0][1])
    elif starts:
        starts.insert(0, (0.0, title))
    if not starts:
        return []
    ends = [*(at_s for at_s, _ in starts[1:]), edited_s]
    return [Chapter(at, end, name) for (at, name), end in zip(starts, ends, strict=True)]
