"""Sounds of the same passage side by side: as recorded, behind any step, results, recipes, others.

Each is rendered on its own, so that one that cannot be had does not keep the others away.
"""

from __future__ import annotations

import json
import struct
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from django.conf import settings

from zesty_core.audio.reader import AudioFile
from zesty_core.audio.resample import resampled
from zesty_core.chain.recipe import Chain, chain_from_json
from zesty_core.chain.runner import run_chain
from zesty_core.compare.client_page import Version
from zesty_core.compare.findings import differences_in_words
from zesty_core.compare.time_series import time_series_of
from zesty_core.compare.voice_gain import voice_gain_db
from zesty_core.foundation.errors import BadInput, ZestyError
from zesty_core.foundation.signal import ArraySource, Block, Span
from zesty_core.live.passage import MOST_S
from zesty_core.measures.stream import measure
from zesty_core.runtime.denormals import flushing_to_zero
from zesty_server.jobs.models import JobState
from zesty_server.passages.services import SETTLED_UP_TO_S
from zesty_server.passages.sessions import Session, session_for
from zesty_server.recordings.edited_sound import same_sound
from zesty_server.recordings.edited_source import source_of
from zesty_server.recordings.models import Recording
from zesty_server.recordings.room_tones import room_tone_for
from zesty_server.runs.models import Run

MOST_SIDES = 8
NOBODY = "00000000-0000-0000-0000-000000000000"
_LEAST_S = 0.5
_POINTS = 400


@dataclass(frozen=True)
class Side:
    """One sound. ``steps`` are of a chain; ``upto`` is how many of them it has passed.

    ``start_s`` is where the passage begins in another recording or its result.
    """

    kind: str  # before, chain, run, recording
    steps: object = ()
    upto: int | None = None
    of: str | None = None
    start_s: float | None = None


@dataclass(frozen=True)
class _Rendered:
    sound: Block
    sample_rate_hz: int
    note: str | None = None


def sides_of(recording: Recording, span: Span, sides: Sequence[Side]) -> Iterator[bytes]:
    """A JSON head, then for each side its figures and its samples; parts as of passages.

    Raises :class:`BadInput` for a passage or a number of sides that does not fit.
    """
    if not 1 <= len(sides) <= MOST_SIDES:
        raise BadInput(f"sides: must be 1 to {MOST_SIDES}, got {len(sides)}", path="sides")
    session = _session(recording, span)
    return _parts(recording, session, span, sides)


def _session(recording: Recording, span: Span) -> Session:
    """What the recording's passages are made with, once the span is known to fit."""
    if recording.measures is None or recording.state == JobState.FAILED:
        raise BadInput(f"{recording.name}: is not measured yet; wait until its figures are there")
    session = session_for(recording)
    duration_s = session.live.info.duration_s
    Span.checked(span.start_s, span.end_s, "passage", duration_s)
    if not _LEAST_S <= span.duration_s <= MOST_S:
        raise BadInput(
            f"passage: must last {_LEAST_S:g} to {MOST_S:g} s, got {span.duration_s:.1f} s",
            path="end_s",
        )
    return session


def _parts(
    recording: Recording, session: Session, span: Span, sides: Sequence[Side]
) -> Iterator[bytes]:
    rate = session.live.info.sample_rate_hz
    head = {"sample_rate_hz": rate, "start_s": span.start_s, "end_s": span.end_s}
    yield _json(head | {"count": len(sides)})
    first: dict[str, Any] | None = None
    first_sound: Block | None = None
    for side in sides:
        try:
            rendered = _rendered(recording, session, span, side)
        except ZestyError as fault:
            yield _json({"error": fault.message})
            yield _part(b"")
            continue
        sound = rendered.sound
        if rendered.sample_rate_hz != rate:
            sound = resampled(sound, rendered.sample_rate_hz, rate)
        source = ArraySource(np.ascontiguousarray(sound, np.float32), rate)
        with flushing_to_zero():
            measures = measure(source.blocks(), source.info).as_json()
        told = {
            "channels": len(sound),
            "note": rendered.note,
            "measures": measures,
            "time_series": time_series_of(source, 0, sound.shape[1], _POINTS),
            "differences": differences_in_words(first, measures) if first else [],
            "voice_gain_db": (
                voice_gain_db(first_sound, sound, rate) if first_sound is not None else 0.0
            ),
        }
        if first is None:
            first, first_sound = measures, sound
        yield _json(told)
        yield _part(source.read(0, sound.shape[1]).astype("<f4").tobytes())


def _rendered(recording: Recording, session: Session, span: Span, side: Side) -> _Rendered:
    live = session.live
    match side.kind:
        case "before":
            start, stop = span.samples(live.info.sample_rate_hz)
            return _Rendered(live.source.read(start, stop), live.info.sample_rate_hz)
        case "chain":
            chain = chain_from_json(side.steps)
            chain = chain if side.upto is None else chain[: side.upto]
            return _through(recording, session, span, chain)
        case "run":
            return _of_run(recording, span, side)
        case _:
            other = Recording.objects.filter(pk=side.of or NOBODY, deleted_at=None).first()
            if other is None:
                raise BadInput("That recording is not there any more; choose another")
            source = source_of(other)
            cut = _cut(Span(side.start_s or 0.0, (side.start_s or 0.0) + span.duration_s), source)
            return _Rendered(cut[0], source.info.sample_rate_hz, cut[1])


def _through(recording: Recording, session: Session, span: Span, chain: Chain) -> _Rendered:
    """The passage behind a chain; of recordings that are not too long, exactly as its run."""
    live, note = session.live, None
    with session.lock:
        session.learn_from_runs(recording)
        facts = session.settled_facts(chain)
    active = {i for i, entry in enumerate(chain) if entry.is_active}
    if active - set(facts):
        if live.info.duration_s <= SETTLED_UP_TO_S:
            result = run_chain(
                source_of(recording),
                chain,
                lambda block: None,
                room_tone=room_tone_for(recording),
                before=live.measures,
                work_folder=settings.WORK_FOLDER,
            )
            facts = {i: point.facts for i, point in enumerate(result.points)}
            with session.lock:
                session.keep_facts(chain, facts)
        else:
            note = "estimated from the passage: the recording is long, run the chain to be exact"
    with session.lock:
        heard = live.hear(chain, span, facts, session.anchor)
    return _Rendered(heard.passage.after, live.info.sample_rate_hz, note)


def _of_run(recording: Recording, span: Span, side: Side) -> _Rendered:
    run = (
        Run.objects.filter(pk=side.of or NOBODY, state=JobState.DONE)
        .select_related("recording")
        .first()
    )
    if run is None or not run.result_path.exists():
        raise BadInput("That result is not there any more; choose another")
    own = run.recording_id == recording.pk
    if own and not same_sound(run, recording):
        raise BadInput("That result is of other cuts or ends; run the chain again to compare it")
    start_s = span.start_s if own else side.start_s or 0.0
    file = AudioFile(run.result_path, run.result_name)
    sound, note = _cut(Span(start_s, start_s + span.duration_s), file)
    return _Rendered(sound, file.info.sample_rate_hz, note)


def _cut(span: Span, source: Any) -> tuple[Block, str | None]:
    """As much of a span as there is; a note when that is not all."""
    info = source.info
    start, stop = span.samples(info.sample_rate_hz)
    there = min(stop, info.length_samples)
    if there - start < _LEAST_S * info.sample_rate_hz:
        raise BadInput(
            f"The passage lies outside of it: it is {info.duration_s:.1f} s long, "
            f"asked for was {span.start_s:.1f} to {span.end_s:.1f} s"
        )
    short = (there - start) / info.sample_rate_hz
    note = f"only {short:.1f} s of it are there" if there < stop else None
    return source.read(start, there), note


def versions_of(
    recording: Recording, span: Span, sides: Sequence[Side], names: Sequence[str]
) -> list[Version]:
    """The sides of a passage as versions to show a client, under these names.

    Raises :class:`BadInput` for a passage or a side that does not fit.
    """
    if not 1 <= len(sides) <= MOST_SIDES:
        raise BadInput(f"sides: must be 1 to {MOST_SIDES}, got {len(sides)}", path="sides")
    session = _session(recording, span)
    made = []
    for side, name in zip(sides, names, strict=True):
        rendered = _rendered(recording, session, span, side)
        sound = np.ascontiguousarray(rendered.sound, np.float32)
        source = ArraySource(sound, rendered.sample_rate_hz)
        with flushing_to_zero():
            measures = measure(source.blocks(), source.info).as_json()
        made.append(Version(name, sound, rendered.sample_rate_hz, measures))
    return made


def _json(value: dict[str, Any]) -> bytes:
    return _part(json.dumps(value, allow_nan=False).encode())


def _part(data: bytes) -> bytes:
    return struct.pack("<I", len(data)) + data
