"""Hearing a passage of a chain that is being set, and settling what its steps must know."""

from __future__ import annotations

import json
import logging
import struct
from collections.abc import Iterator
from typing import Any

import numpy as np
from django.conf import settings

from zesty_core.advice.chain import StepResult, chain_advice
from zesty_core.chain.recipe import Chain, chain_from_json
from zesty_core.chain.runner import run_chain
from zesty_core.compare.voice_gain import voice_gain_db
from zesty_core.foundation.errors import BadInput, Cancelled, ZestyError
from zesty_core.foundation.signal import Block, Span
from zesty_core.live.chain import Heard
from zesty_core.measures.report import Levels
from zesty_core.steps.pictures import PicturedPassage
from zesty_server.jobs.models import JobState
from zesty_server.passages.sessions import Session, session_for
from zesty_server.recordings.edited_source import source_of
from zesty_server.recordings.models import Recording
from zesty_server.recordings.room_tones import room_tone_for

_log = logging.getLogger(__name__)
#: Longer recordings are settled by a run only: it would keep both cores busy at every turn.
SETTLED_UP_TO_S = 240.0


class Superseded(ZestyError):  # noqa: N818
    """The chain has changed since; ask again with the new one."""

    code = "overtaken"


def hear_passage(
    recording: Recording, steps: object, span: Span, *, with_before: bool, opened: int | None
) -> Iterator[bytes]:
    """Sound first, then its figures.

    The parts, each behind its length as a little-endian 32-bit number: a JSON head, then the samples
    as 32-bit floats, channel after channel (before, where asked for, and after); then a JSON tail
    with the points of the chain, the advice, and the picture of the step at place ``opened``.

    Raises :class:`BadInput` before anything is given.
    """
    session, chain = _prepared(recording, steps)
    if session.settling != chain:
        # What is being settled is out of date; its work must not hold up what is heard.
        session.turn += 1
    with session.lock:
        session.learn_from_runs(recording)
        heard = session.live.hear(chain, span, session.settled_facts(chain), session.anchor)
        head = _head(recording, session, heard)
    ceiling = recording.target.document.ceiling_dbtp if recording.target else None
    return _parts(session, chain, heard, head, with_before, opened, ceiling)


def settle(recording: Recording, steps: object) -> list[dict[str, Any]]:
    """Run the chain over the whole recording for its facts and levels alone; gives the points.

    Raises :class:`Superseded` when a newer request came meanwhile, :class:`BadInput` for recordings
    that are too long for this.
    """
    session, chain = _prepared(recording, steps)
    if session.live.info.duration_s > SETTLED_UP_TO_S:
        raise BadInput(f"{recording.name}: is longer than {SETTLED_UP_TO_S:g} s; run the chain")
    session.turn += 1
    mine, session.settling = session.turn, chain
    try:
        result = run_chain(
            source_of(recording),
            chain,
            _drop,
            room_tone=room_tone_for(recording),
            before=session.live.measures,
            cancelled=lambda: session.turn != mine,
            work_folder=settings.WORK_FOLDER,
        )
    except Cancelled:
        raise Superseded(f"{recording.name}: the chain has changed since") from None
    points = [point.as_json() for point in result.points]
    with session.lock:
        session.keep(chain, {i: p.facts for i, p in enumerate(result.points)}, points)
    return points


def _prepared(recording: Recording, steps: object) -> tuple[Session, Chain]:
    if recording.state == JobState.FAILED or recording.measures is None:
        raise BadInput(f"{recording.name}: is not measured yet; wait until its figures are there")
    chain = chain_from_json(steps)
    return session_for(recording), chain


def _head(recording: Recording, session: Session, heard: Heard) -> dict[str, Any]:
    live, passage = session.live, heard.passage
    stages = passage.stages
    last = stages[max(stages)].key if stages else "before"
    before_lufs = live.integrated_lufs(passage.before, f"before {passage.span}")
    after_lufs = live.integrated_lufs(passage.after, f"{last} {passage.span}")
    return {
        "sample_rate_hz": live.info.sample_rate_hz,
        "channels": live.info.channels,
        "start_s": passage.span.start_s,
        "end_s": passage.span.end_s,
        "before_lufs": before_lufs,
        "after_lufs": after_lufs,
        "voice_gain_db": voice_gain_db(passage.before, passage.after, live.info.sample_rate_hz),
        "is_settled": heard.is_settled,
        "can_settle": live.info.duration_s <= SETTLED_UP_TO_S,
    }


def _parts(
    session: Session,
    chain: Chain,
    heard: Heard,
    head: dict[str, Any],
    with_before: bool,
    opened: int | None,
    ceiling_dbtp: float | None,
) -> Iterator[bytes]:
    yield _json_part(head)
    sounds = [heard.passage.before, heard.passage.after][0 if with_before else 1 :]
    data = np.concatenate(sounds).astype("<f4").tobytes()
    yield struct.pack("<I", len(data)) + data
    try:
        with session.lock:
            tail = _tail(session, chain, heard, opened, ceiling_dbtp)
    except Exception as fault:  # nothing can be answered any more but here
        _log.exception("telling of a passage failed", exc_info=fault)
        tail = {"error": "The pictures could not be made; change a setting to try again."}
    yield _json_part(tail)


def _json_part(value: dict[str, Any]) -> bytes:
    data = json.dumps(value, allow_nan=False).encode()
    return struct.pack("<I", len(data)) + data


def _tail(
    session: Session,
    chain: Chain,
    heard: Heard,
    opened: int | None,
    ceiling_dbtp: float | None,
) -> dict[str, Any]:
    before = session.live.levels_as_recorded()
    whole = session.settled_points(chain)
    points: list[dict[str, Any]] = [
        {
            "type": point.type,
            "sentence": chain[i].step.sentence(),
            "levels": whole[i]["levels"] if whole else point.levels.as_json(),
            "report": {k: v for k, v in point.report.items() if v is not None},
            "is_settled": whole is not None,
        }
        for i, point in enumerate(heard.points)
    ]
    results = [
        StepResult(Levels(**p["levels"]), whole[i]["report"] if whole else p["report"])
        for i, p in enumerate(points)
    ]
    return {
        "before": before.as_json(),
        "points": points,
        "advice": [
            finding.as_json()
            for finding in chain_advice(
                chain, before, results, ceiling_dbtp, session.live.measures.noise_floor_shift
            )
        ],
        "picture": _picture(session, chain, heard, opened),
    }


def _picture(
    session: Session, chain: Chain, heard: Heard, opened: int | None
) -> dict[str, Any] | None:
    """Picture of one step; of a step that is off, as if it did nothing."""
    if opened is None or not 0 <= opened < len(chain):
        return None
    stages = heard.passage.stages
    earlier = [index for index in stages if index < opened]
    into = stages[max(earlier)].sound if earlier else heard.passage.before
    stage, point = stages.get(opened), heard.points[opened]
    passage = PicturedPassage(
        stage.facts if stage else {"idle": True},
        into,
        stage.sound if stage else into,
        point.tone_before,
        point.tone_after,
        session.live.info.sample_rate_hz,
    )
    return chain[opened].step.picture(passage)


def _drop(block: Block) -> None:
    pass
