"""Edits before the chain: choice of channel, cuts, inserts, padding, fades."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, field, replace
from typing import Any, Protocol, TypeVar

import numpy as np

from zesty_core.audio.channels import MonoSource
from zesty_core.audio.cuts import CutSource
from zesty_core.audio.edit_times import EditTimes
from zesty_core.audio.ends import merged
from zesty_core.audio.fades import FadedSource
from zesty_core.audio.padding import Fill, FilledSource, room_fill
from zesty_core.audio.resample import resampled
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.marks import MarkedSource, Marks
from zesty_core.foundation.repairs import Repairs, RepairSpan
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import Block, SignalInfo, Source, Span
from zesty_core.foundation.speakers import Speakers, Turn
from zesty_core.foundation.units import seconds_to_samples

#: Enough for every pause of four hours.
MOST_CUTS = 5000
MOST_INSERTS = 200
LONGEST_INSERT_S = 30.0
INSERT_KINDS = ("room_tone", "silence")
_LEAST_LEFT_S = 0.1
_BEYOND_S = 0.1


class Edits(Protocol):
    """What is done to a recording before its chain; times are in seconds of the original."""

    @property
    def cuts(self) -> Any:
        """Spans left out: start_s and end_s."""

    @property
    def inserts(self) -> Any:
        """Inserts: at_s, length_s and kind (room_tone or silence)."""

    @property
    def mono(self) -> str:
        """Choice of channel; empty leaves both."""

    @property
    def pad_start_s(self) -> float:
        """Room tone before what is left."""

    @property
    def pad_end_s(self) -> float:
        """Room tone after it."""

    @property
    def fade_in_s(self) -> float:
        """Length of the fade-in."""

    @property
    def fade_out_s(self) -> float:
        """Length of the fade-out."""

    @property
    def speakers(self) -> Any:
        """Who speaks when, as of :class:`Speakers`; None where that is not settled."""

    @property
    def repairs(self) -> Any:
        """Events that repairs leave alone or mend as well, as of :class:`Repairs`; None for none."""


S = TypeVar("S", Turn, RepairSpan)


@dataclass(frozen=True)
class FileEdits:
    """Edits of a file that is in no library."""

    cuts: list[dict[str, float]] = field(default_factory=list)
    mono: str = ""
    pad_start_s: float = 0.0
    pad_end_s: float = 0.0
    inserts: list[dict[str, Any]] = field(default_factory=list)
    fade_in_s: float = 0.0
    fade_out_s: float = 0.0
    speakers: dict[str, Any] | None = None
    repairs: dict[str, Any] | None = None

    def as_json(self) -> dict[str, Any]:
        """JSON object; speakers and repairs are named only where a person has settled them."""
        document = asdict(self)
        for name in ("speakers", "repairs"):
            if document[name] is None:
                del document[name]
        return document


def as_file_edits(edits: Edits) -> FileEdits:
    """A copy of the edits alone."""
    return FileEdits(
        edits.cuts,
        edits.mono,
        edits.pad_start_s,
        edits.pad_end_s,
        edits.inserts,
        edits.fade_in_s,
        edits.fade_out_s,
        edits.speakers,
        edits.repairs,
    )


def edit_times(edits: Edits) -> EditTimes:
    """Converts times for these edits."""
    return EditTimes(edits.cuts, edits.inserts, edits.pad_start_s)


def moves_times(edits: Edits) -> bool:
    """Whether edited times differ from original times."""
    return bool(edits.cuts or edits.inserts or edits.pad_start_s)


def holds_room_tone(edits: Edits) -> bool:
    """Whether the edited recording contains added room tone."""
    tones = [insert for insert in edits.inserts if insert["kind"] == "room_tone"]
    return bool(tones or edits.pad_start_s or edits.pad_end_s)


def one_side(file: Source, mono: str) -> Source:
    """The file, or one channel made of its two."""
    return MonoSource(file, mono) if mono and file.info.channels > 1 else file


def edited(file: Source, edits: Edits, tone: RoomTone | None) -> Source:
    """The edited recording, which is played, processed and measured; ``tone`` fills added room tone.

    Without a tone (it was deleted) the added parts are silent.
    """
    source = one_side(file, edits.mono)
    if edits.cuts:
        source = CutSource(source, [Span(cut["start_s"], cut["end_s"]) for cut in edits.cuts])
    fills = _fills(source.info, edits, tone)
    if fills:
        source = FilledSource(source, fills)
    if edits.fade_in_s or edits.fade_out_s:
        rate = source.info.sample_rate_hz
        lengths = (seconds_to_samples(s, rate) for s in (edits.fade_in_s, edits.fade_out_s))
        source = FadedSource(source, *lengths)
    if edits.speakers or edits.repairs:
        source = MarkedSource(source, _marks(edits))
    return source


def _marks(edits: Edits) -> Marks:
    """In edited times, without what is cut."""
    times, speakers, repairs = edit_times(edits), None, None
    if edits.speakers:
        speakers = Speakers.from_json(edits.speakers)
        speakers = replace(speakers, turns=_moved(speakers.turns, times))
    if edits.repairs:
        repairs = Repairs.from_json(edits.repairs)
        repairs = Repairs(_moved(repairs.refused, times), _moved(repairs.added, times))
    return Marks(speakers, repairs)


def _moved(spans: Iterable[S], times: EditTimes) -> tuple[S, ...]:
    moved = (
        replace(s, start_s=times.edited(s.start_s), end_s=times.edited(s.end_s)) for s in spans
    )
    return tuple(s for s in moved if s.start_s < s.end_s)


def _fills(info: SignalInfo, edits: Edits, tone: RoomTone | None) -> list[Fill]:
    """Padding and inserts, by sample position after the cuts."""
    rate = info.sample_rate_hz
    times = edit_times(edits)
    fills = []
    for at, pad_s in ((0, edits.pad_start_s), (info.length_samples, edits.pad_end_s)):
        fills.append(Fill(at, _fill(tone, info, seconds_to_samples(pad_s, rate))))
    inserts = times.active_inserts
    # All inserts share one fill per kind, to bound memory.
    longest = dict.fromkeys(INSERT_KINDS, 0)
    for insert in inserts:
        length = seconds_to_samples(insert["length_s"], rate)
        longest[insert["kind"]] = max(longest[insert["kind"]], length)
    sounds = {
        "room_tone": _fill(tone, info, longest["room_tone"]),
        "silence": np.broadcast_to(np.float32(0.0), (info.channels, longest["silence"])),
    }
    for insert in inserts:
        at = seconds_to_samples(times.left_before(insert["at_s"]), rate)
        sound = sounds[insert["kind"]][:, : seconds_to_samples(insert["length_s"], rate)]
        fills.append(Fill(min(at, info.length_samples), sound))
    # Padding stays outside of inserts at the same end.
    return [fill for fill in (fills[0], *fills[2:], fills[1]) if fill.sound.shape[1]]


def _fill(tone: RoomTone | None, info: SignalInfo, samples: int) -> Block:
    if tone is None or tone.samples is None or samples == 0:
        return np.zeros((info.channels, samples), np.float32)
    sound = tone.samples
    if tone.sample_rate_hz != info.sample_rate_hz:
        sound = resampled(sound, tone.sample_rate_hz, info.sample_rate_hz)
    if len(sound) != info.channels:
        sound = np.repeat(sound.mean(axis=0, keepdims=True), info.channels, axis=0)
    return room_fill(sound.astype(np.float32), info.sample_rate_hz, samples)


def samples_left(length_samples: int, rate: int, edits: Edits) -> int:
    """How many samples the edits leave."""
    spans = [Span(cut["start_s"], cut["end_s"]).samples(rate) for cut in edits.cuts]
    inserted = [insert["length_s"] for insert in edit_times(edits).active_inserts]
    lengths_s = (edits.pad_start_s, edits.pad_end_s, *inserted)
    added = sum(seconds_to_samples(t, rate) for t in lengths_s)
    return added + length_samples - sum(min(stop, length_samples) - start for start, stop in spans)


def checked_inserts(
    inserts: Sequence[Mapping[str, Any]], duration_s: float
) -> list[dict[str, Any]]:
    """Inserts in order; raises :class:`BadInput` when one lies outside or is too long."""
    if len(inserts) > MOST_INSERTS:
        raise BadInput(
            f"inserts: must be at most {MOST_INSERTS}, got {len(inserts)}", path="inserts"
        )
    for insert in inserts:
        at_s, length_s = insert["at_s"], insert["length_s"]
        if not 0.0 <= at_s <= duration_s:
            raise BadInput(
                f"insert: must lie within 0 to {duration_s:.3f} s, got {at_s:.3f} s", path="inserts"
            )
        if not 0.0 < length_s <= LONGEST_INSERT_S:
            raise BadInput(
                f"insert: must last up to {LONGEST_INSERT_S:.0f} s, got {length_s:g} s",
                path="inserts",
            )
    kept = [{name: i[name] for name in ("at_s", "length_s", "kind")} for i in inserts]
    return sorted(kept, key=lambda i: i["at_s"])


def checked_cuts(cuts: Sequence[dict[str, Any]], duration_s: float) -> list[dict[str, float]]:
    """Cuts in order, those that touch as one.

    Raises :class:`BadInput` when one lies outside the recording or too little is left.
    """
    if len(cuts) > MOST_CUTS:
        raise BadInput(f"cuts: must be at most {MOST_CUTS}, got {len(cuts)}", path="cuts")
    whole = []
    for cut in cuts:
        start, end = float(cut["start_s"]), min(float(cut["end_s"]), duration_s)
        Span.checked(start, end, "cut", duration_s)
        whole.append({"start_s": start, "end_s": end})
    ordered = merged(whole)
    left_s = duration_s - sum(cut["end_s"] - cut["start_s"] for cut in ordered)
    if left_s < _LEAST_LEFT_S:
        raise BadInput("cuts: they would leave nothing of the recording", path="cuts")
    return ordered


def checked_speakers(speakers: object, duration_s: float) -> dict[str, Any] | None:
    """Who speaks when, validated; None takes it back.

    Raises :class:`BadInput` for turns that do not fit.
    """
    if speakers is None:
        return None
    checked = Speakers.from_json(speakers)
    # Turns are found in frames; the last may end a little after the last sample.
    beyond = [t for t in checked.turns if t.end_s > duration_s + _BEYOND_S]
    if beyond:
        raise BadInput(
            f"speakers: a turn ends at {beyond[0].end_s:g} s, but the recording at {duration_s:g} s",
            path="turns",
        )
    return checked.as_json()


def checked_repairs(repairs: object, duration_s: float) -> dict[str, Any] | None:
    """Refused and added events of repairs, validated; None, or no event at all, takes them back.

    Raises :class:`BadInput` for spans that do not fit.
    """
    if repairs is None:
        return None
    checked = Repairs.from_json(repairs)
    beyond = [s for s in (*checked.refused, *checked.added) if s.end_s > duration_s + _BEYOND_S]
    if beyond:
        raise BadInput(
            f"repairs: a span ends at {beyond[0].end_s:g} s, but the recording at {duration_s:g} s",
            path="repairs",
        )
    return checked.as_json() if checked.refused or checked.added else None
