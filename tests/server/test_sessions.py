"""What is kept between one heard passage and the next: for whom, how long, and from which runs."""

from __future__ import annotations

import json

import pytest

from tests.server.test_edits import edit
from tests.server.test_passages import STEPS, run_of
from zesty_core.chain.recipe import chain_from_json
from zesty_server.passages import sessions
from zesty_server.passages.sessions import session_for
from zesty_server.recordings.models import Recording
from zesty_server.runs.models import Run


def stored(recording):
    return Recording.objects.get(pk=recording["id"])


def test_one_session_for_each_sound_and_the_oldest_goes(api, recording, another):
    first = session_for(stored(recording))
    assert session_for(stored(recording)) is first
    edit(api, recording, [(0, 1)])
    cut = session_for(stored(recording))
    assert cut is not first
    assert cut.live.info.duration_s == pytest.approx(4)
    edit(api, recording, [])
    assert session_for(stored(recording)) is first
    for seed in range(sessions._MOST_SESSIONS):
        session_for(stored(api.upload(another(seed + 7), f"{seed}.wav").json()))
    assert session_for(stored(recording)) is not first


def test_runs_of_the_same_sound_settle_what_comes_before_a_change(api, recording):
    run_of(api, recording)
    session = session_for(stored(recording))
    session.learn_from_runs(stored(recording))
    chain = chain_from_json(STEPS)
    assert set(session.settled_facts(chain)) == {0, 1, 2}
    assert session.settled_points(chain) == Run.objects.get().points
    changed = json.loads(json.dumps(STEPS))
    changed[1]["params"]["ratio"] = 4
    assert set(session.settled_facts(chain_from_json(changed))) == {0}
    assert session.settled_points(chain_from_json(changed)) is None
    # Steps that are off make no difference to those that are on.
    inserted = [{"type": "gate", "enabled": False}, *STEPS]
    assert set(session.settled_facts(chain_from_json(inserted))) == {1, 2, 3}


@pytest.mark.parametrize(
    "spoil",
    [
        lambda run: Run.objects.filter(pk=run.pk).update(engine_version="0"),
        lambda run: run.facts_path.unlink(),
        lambda run: Run.objects.filter(pk=run.pk).update(mono="left"),
        lambda run: run.facts_path.write_text(json.dumps({"room_tone": "other", "facts": {}})),
    ],
    ids=["another engine", "no facts", "other edits", "another room tone"],
)
def test_runs_of_another_sound_or_engine_settle_nothing(api, recording, spoil):
    run_of(api, recording)
    spoil(Run.objects.get())
    session = sessions.Session(session_for(stored(recording)).live)
    session.learn_from_runs(stored(recording))
    assert session.settled_facts(chain_from_json(STEPS)) == {}
    assert session.anchor is None
