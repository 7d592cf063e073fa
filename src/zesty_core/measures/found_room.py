"""Room tone found without help: stretches in which nobody seems to speak, found by their level.

Common practice, no published source: the quietest half second, and the stretches that stay close to
it. Two things are asked of the recording itself.

How close. A steady room stays within a few decibels; one that swells and sags by itself does not, and
there only its calmest moments would be left, a few decibels under what the room really is. So the
limit is raised as long as that makes the longest stretch much longer. Speech does not: its syllables
stand out of any second of it.

Whether half a second holds room at all. Somebody who speaks without pauses leaves no such gap, and the
quietest half second is speech. It shows by much quieter gaps between the words, and then room is
learned from those.

Level cannot distinguish a room that bangs and splashes from a voice. But nobody speaks for a second
without a vowel, and vowels repeat themselves (``measures.voiced``): where the level finds little,
stretches without any are taken.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.runs import runs
from zesty_core.foundation.signal import Span
from zesty_core.foundation.units import SILENCE_DB, power_to_db
from zesty_core.measures.voiced import STEP_MS, VoicedMeter

QUIETEST_S = 0.5
#: A hop below this holds no recorded room (24-bit quantisation noise lies at -146).
DIGITAL_SILENCE = 10.0 ** (SILENCE_DB / 10.0)
#: A steady room stays this close to what is quietest; breaths and word tails rise further.
_STEADY_DB = 4.0
#: What rooms that move by themselves are given more, as long as it pays.
_RESTLESS_DB = (6.0, 8.0, 10.0)
#: It pays when the longest stretch grows this much, to at least this length.
_GROWTH, _LONG_S = 1.5, 1.0
#: Room stays this far under the voice at its loudest.
_UNDER_VOICE_DB = 1.0
#: Less distance than this between what is quietest and the voice, and nothing tells them apart.
_LEAST_CLEARANCE_DB = 3.0
#: With less than this, only stretches that stay steady for longer than speech does are believed.
_PLAIN_CLEARANCE_DB = 6.0
_LONGEST_S = 8.0
#: Noise is learned from the longest stretches until they last so long together.
_LEARNED_S = 2.0
#: So many are shown at least, to choose from.
_SHOWN = 5
#: Gaps this far under the quietest half second show that it is speech.
_GAP_BELOW_DB = 3.0
_GAP_WINDOW_S = 0.15
#: No room sags this far under its own mean for so long as a gap; speech does.
_SAGS_DB = 10.0
#: So much of gaps is believed, and so many at most are learned from.
_GAPS_S, _MOST_GAPS = 0.1, 12


@dataclass(frozen=True)
class _Scale:
    """How stretches are found: on levels over ``smoothing_s``, leaving ``edge_s`` off at both ends,
    at least ``least_s`` of the rest."""

    smoothing_s: float
    edge_s: float
    least_s: float


_WITH_ROOM_TO_SPARE = _Scale(0.1, 0.25, 0.5)
_PAUSES = _Scale(0.1, 0.15, 0.25)
_GAPS = _Scale(0.05, 0.02, 0.06)


@dataclass(frozen=True)
class FoundRoomTone:
    """A stretch that may serve as room tone, and what speaks for it."""

    span: Span
    level_dbfs: float
    #: From its quieter to its louder tenths of a second (5th to 95th percentile).
    level_spread_db: float
    above_quietest_db: float
    #: Noise is learned from it where nothing else is marked.
    in_use: bool

    def as_json(self) -> dict[str, float | bool]:
        """JSON object."""
        return {
            "start_s": self.span.start_s,
            "end_s": self.span.end_s,
            "level_dbfs": round(self.level_dbfs, 2),
            "level_spread_db": round(self.level_spread_db, 2),
            "above_quietest_db": round(max(0.0, self.above_quietest_db), 2),
            "in_use": self.in_use,
        }


#: Nobody speaks where so few spans of so long a stretch repeat themselves. Of readers, 5 dB over a
#: noise, 0.05 of a second do so at least, mostly a quarter and more.
_NO_VOWEL_S, _NO_VOWEL_SHARE = 1.0, 0.04
#: ... if so many of the loud ones do: who whispers has no vowels either.
_VOWELS_AMONG_LOUD = 0.3
#: Such a stretch is longer than a breath, most of it lies over the quietest half second (else the level
#: tells better), and there is more than one, or a long one.
_NO_BREATH_S, _MOSTLY_ABOVE_DB, _RECURS_S = 1.2, 3.0, 2.5

#: First hop of a stretch, and the one after its last.
_Hops = tuple[int, int]


class RoomToneSearch:
    """Stretches of room tone, the most useful (longest) first.

    ``windows`` gives the power of every window of so many hops of ``hop_s``; ``quietest`` the first
    hop and the level in dBFS of the quietest window of a length in seconds, None when there is none;
    ``voiced`` what a :class:`VoicedMeter` found.
    """

    def __init__(
        self,
        windows: Callable[[int], NDArray[np.float32]],
        quietest: Callable[[float], tuple[int, float] | None],
        voiced: NDArray[np.bool_],
        hop_s: float,
    ) -> None:
        self._windows, self._quietest, self._hop_s = windows, quietest, hop_s
        self._voiced = voiced

    def found(self, voice_level_dbfs: float) -> list[FoundRoomTone]:
        """All that would serve; none when nothing tells room and voice apart."""
        half_second = self._quietest(QUIETEST_S)
        if half_second is None:
            return []
        start, level_dbfs = half_second
        clearance_db = voice_level_dbfs - level_dbfs
        if clearance_db < _LEAST_CLEARANCE_DB:
            return []
        stretches = self._pauses(level_dbfs, clearance_db - _UNDER_VOICE_DB)
        if not stretches and clearance_db >= _PLAIN_CLEARANCE_DB:
            stretches = [(start, start + self._hops_in(QUIETEST_S))]
        pauses = [s for s in stretches if self._together_s([s]) >= _WITH_ROOM_TO_SPARE.least_s]
        if self._together_s(pauses) < _LONG_S:
            restless = self._without_vowels(voice_level_dbfs, level_dbfs)
            if self._together_s(restless) >= _RECURS_S:
                return self._select(restless, level_dbfs)
            gap = self._quietest(_GAP_WINDOW_S)
            if gap and level_dbfs - gap[1] > _GAP_BELOW_DB:
                level_dbfs = gap[1]
                stretches = self._between(level_dbfs + _STEADY_DB)[:_MOST_GAPS]
                if self._together_s(stretches) < _GAPS_S:
                    return []
        return self._select(stretches, level_dbfs)

    def _pauses(self, level_dbfs: float, most_db: float) -> list[_Hops]:
        """Stretches close to ``level_dbfs``; how close, the recording tells, up to ``most_db``."""
        limit_dbfs = level_dbfs + _STEADY_DB
        wide = self._within(limit_dbfs, _WITH_ROOM_TO_SPARE)
        for above_db in _RESTLESS_DB:
            if above_db > most_db:
                break
            raised = self._within(level_dbfs + above_db, _WITH_ROOM_TO_SPARE)
            longest_s = self._together_s(raised[:1])
            if longest_s >= max(_LONG_S, _GROWTH * self._together_s(wide[:1])):
                limit_dbfs, wide = level_dbfs + above_db, raised
        if self._together_s(wide) >= _LONG_S:
            return wide
        narrow = self._within(limit_dbfs, _PAUSES)
        return narrow if self._together_s(narrow) >= _GROWTH * self._together_s(wide) else wide

    def _between(self, limit_dbfs: float) -> list[_Hops]:
        """Gaps under a limit, the longest first; where a recording begins or ends is none."""
        edge, last = self._hops_in(_GAPS.edge_s), len(self._windows(1))
        gaps = self._within(limit_dbfs, _GAPS)
        return [(begin, end) for begin, end in gaps if begin > edge and end < last - edge]

    def _within(self, limit_dbfs: float, scale: _Scale) -> list[_Hops]:
        """Stretches that stay under a limit, the longest first."""
        width, edge = self._hops_in(scale.smoothing_s), self._hops_in(scale.edge_s)
        smooth = self._windows(width)
        quiet = runs((smooth <= 10.0 ** (limit_dbfs / 10.0)) & (smooth >= DIGITAL_SILENCE))
        inner = quiet + np.array([edge, width - 1 - edge])
        lengths = inner[:, 1] - inner[:, 0]
        longest_first = np.argsort(-lengths, kind="stable")
        inner = inner[longest_first[lengths[longest_first] >= self._hops_in(scale.least_s)]]
        gap = self._hops_in(_GAP_WINDOW_S)
        in_gaps = self._windows(gap)

        def sags(begin: int, end: int) -> bool:
            inside = in_gaps[begin : max(begin, end - gap + 1)]
            return len(inside) > 0 and inside.min() < inside.mean() * 10.0 ** (-_SAGS_DB / 10.0)

        return [(a, b) for a, b in inner.tolist() if not sags(a, b)]

    def _without_vowels(self, voice_level_dbfs: float, quietest_dbfs: float) -> list[_Hops]:
        """Stretches of a restless room in which nobody holds a vowel, the longest first."""
        voiced, hops = self._voiced, self._hops_in(STEP_MS / 1000.0)
        width = round(_NO_VOWEL_S * 1000 / STEP_MS)
        # As long as a step, about the middle of each.
        middle = self._hops_in(VoicedMeter.FIRST_MS / 1000.0)
        around = self._windows(hops)[middle - hops // 2 :: hops]
        loud = voiced[: len(around)][around[: len(voiced)] >= 10.0 ** (voice_level_dbfs / 10.0)]
        if len(voiced) < width or not len(loud) or loud.mean() < _VOWELS_AMONG_LOUD:
            return []
        before = np.concatenate([[0], np.cumsum(voiced, dtype=np.int32)])
        free = before[width:] - before[:-width] <= _NO_VOWEL_SHARE * width
        edge = self._hops_in(_WITH_ROOM_TO_SPARE.edge_s)
        smoothing = self._hops_in(_WITH_ROOM_TO_SPARE.smoothing_s)
        power = self._windows(smoothing)
        found = []
        for first, last in runs(free).tolist():
            begin, end = hops * first + edge, hops * (last - 1 + width) - edge
            inside = power[begin : end - smoothing]
            if self._together_s([(begin, end)]) < _NO_BREATH_S or inside.min() < DIGITAL_SILENCE:
                continue
            is_under_voice = power_to_db(float(inside.mean())) < voice_level_dbfs - _UNDER_VOICE_DB
            mostly_dbfs = power_to_db(float(np.median(inside)))
            if is_under_voice and mostly_dbfs > quietest_dbfs + _MOSTLY_ABOVE_DB:
                found.append((begin, end))
        return sorted(found, key=lambda hops: hops[0] - hops[1])

    def _select(self, stretches: list[_Hops], quietest_dbfs: float) -> list[FoundRoomTone]:
        """Those noise is learned from, and some more to choose from."""
        found: list[FoundRoomTone] = []
        learned_s = 0.0
        for stretch in stretches:
            in_use = learned_s < _LEARNED_S
            if not in_use and len(found) >= _SHOWN:
                break
            found.append(self._score(stretch, quietest_dbfs, in_use))
            learned_s += found[-1].span.duration_s
        return found

    def _score(self, stretch: _Hops, quietest_dbfs: float, in_use: bool) -> FoundRoomTone:
        begin, end = stretch
        begin_s = begin * self._hop_s
        span = Span(round(begin_s, 3), round(min(end * self._hop_s, begin_s + _LONGEST_S), 3))
        width = min(self._hops_in(_PAUSES.smoothing_s), end - begin)
        inside = self._windows(width)[begin : max(begin + 1, end - width)]
        low, high = np.percentile(10.0 * np.log10(np.maximum(inside, DIGITAL_SILENCE)), (5, 95))
        level = max(power_to_db(float(inside.mean())), SILENCE_DB)
        return FoundRoomTone(span, level, float(high - low), level - quietest_dbfs, in_use)

    def _together_s(self, stretches: list[_Hops]) -> float:
        return sum(end - begin for begin, end in stretches) * self._hop_s

    def _hops_in(self, time_s: float) -> int:
        return max(1, round(time_s / self._hop_s))
