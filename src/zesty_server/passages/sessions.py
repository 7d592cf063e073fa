"""Recordings that are being worked on: what is kept between one heard passage and the next."""

from __future__ import annotations

import json
import threading
from collections import OrderedDict
from dataclasses import dataclass, field
from typing import Any

from zesty_core import ENGINE_VERSION
from zesty_core.audio.edits import as_file_edits
from zesty_core.chain.recipe import Chain, chain_from_json
from zesty_core.live.chain import Anchor, LiveChain
from zesty_core.measures.report import Levels
from zesty_core.steps.base import Facts
from zesty_server.jobs.models import JobState
from zesty_server.recordings.edited_sound import same_sound
from zesty_server.recordings.edited_source import source_of
from zesty_server.recordings.kept_measures import keep_measures, known_measures
from zesty_server.recordings.models import Recording
from zesty_server.recordings.room_tones import room_tone_for, tone_mark
from zesty_server.runs.models import Run

_MOST_SESSIONS = 3
_MOST_CHAINS = 200


@dataclass
class Session:
    """One recording with its edits and room tone; ``lock`` is held while it is used."""

    live: LiveChain
    lock: threading.Lock = field(default_factory=threading.Lock)
    #: Counts requests to settle; an older one stops when a newer one comes.
    turn: int = 0
    settling: Chain | None = None
    #: What was settled last.
    anchor: Anchor | None = None
    _facts: OrderedDict[str, Facts] = field(default_factory=OrderedDict)
    _points: OrderedDict[str, list[dict[str, Any]]] = field(default_factory=OrderedDict)
    _runs_seen: set[str] = field(default_factory=set)

    def settled_facts(self, chain: Chain) -> dict[int, Facts]:
        """Facts that are known of the whole recording, by place in the chain."""
        keys = _prefix_keys(chain)
        return {index: self._facts[key] for index, key in keys.items() if key in self._facts}

    def settled_points(self, chain: Chain) -> list[dict[str, Any]] | None:
        """Levels and reports of exactly this chain on the whole recording."""
        return self._points.get(_whole_key(chain))

    def keep(self, chain: Chain, facts: dict[int, Facts], points: list[dict[str, Any]]) -> None:
        """Keep what a run or a settling found."""
        self.keep_facts(chain, facts)
        _kept(self._points, _whole_key(chain), points)
        self.anchor = Anchor(chain, facts, [Levels(**point["levels"]) for point in points])

    def keep_facts(self, chain: Chain, facts: dict[int, Facts]) -> None:
        """Keep what is known of the whole recording behind the steps of a chain."""
        for index, key in _prefix_keys(chain).items():
            if index in facts:
                _kept(self._facts, key, facts[index])

    def learn_from_runs(self, recording: Recording) -> None:
        """Take over what finished runs of the same sound have settled."""
        done = recording.runs.filter(state=JobState.DONE, engine_version=ENGINE_VERSION)
        newest = done.order_by("-created_at").values_list("pk", flat=True)[:3]
        unseen = [key for key in newest if str(key) not in self._runs_seen]
        for run in done.filter(pk__in=unseen).order_by("created_at") if unseen else ():
            self._runs_seen.add(str(run.pk))
            facts = _facts_of(run, recording)
            if facts:
                self.keep(chain_from_json(run.chain), facts, run.points)


_sessions: OrderedDict[str, Session] = OrderedDict()
_opening = threading.Lock()


def session_for(recording: Recording) -> Session:
    """The recording's session; opening one measures the recording where its measures are not kept."""
    key = f"{recording.pk} {_edits_mark(recording)} {tone_mark(recording)}"
    with _opening:
        session = _sessions.get(key)
        if session is None:
            session = Session(_live(recording))
            _sessions[key] = session
        _sessions.move_to_end(key)
        while len(_sessions) > _MOST_SESSIONS:
            _sessions.popitem(last=False)
    return session


def _live(recording: Recording) -> LiveChain:
    known = known_measures(recording, recording)
    live = LiveChain(source_of(recording), room_tone_for(recording), known)
    if known is None:
        keep_measures(recording, recording, live.measures)
    return live


def _facts_of(run: Run, recording: Recording) -> dict[int, Facts] | None:
    """Facts of a run on the very sound the recording has now; None otherwise."""
    if not same_sound(run, recording) or not run.facts_path.exists():
        return None
    try:
        kept = json.loads(run.facts_path.read_bytes())
        facts = {int(index): facts for index, facts in kept["facts"].items()}
        is_same_tone = kept["room_tone"] == tone_mark(recording)
    except (OSError, ValueError, KeyError, TypeError, AttributeError):
        return None  # damaged: they are settled anew
    return facts if is_same_tone else None


def _edits_mark(edits: Recording) -> str:
    return json.dumps(as_file_edits(edits).as_json())


def _prefix_keys(chain: Chain) -> dict[int, str]:
    """What each active step's facts depend on: some of its settings and the steps before it."""
    keys, so_far = {}, ""
    for index, entry in enumerate(chain):
        if entry.is_active:
            step = entry.step
            keys[index] = so_far + json.dumps([step.type, step.facts_params], sort_keys=True)
            so_far += json.dumps([step.type, step.as_params()], sort_keys=True)
    return keys


def _whole_key(chain: Chain) -> str:
    return json.dumps([[e.enabled, e.step.type, e.step.as_params()] for e in chain], sort_keys=True)


def _kept(store: OrderedDict[str, Any], key: str, value: Any) -> None:
    store[key] = value
    store.move_to_end(key)
    while len(store) > _MOST_CHAINS:
        store.popitem(last=False)
