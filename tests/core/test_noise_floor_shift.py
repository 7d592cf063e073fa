"""A room that is louder for a while, and one that stays as it is."""

from __future__ import annotations

import functools

import numpy as np
import pytest

from tests.made_sound import RATE as MADE_RATE
from tests.made_sound import noise, words
from zesty_core.advice.chain import StepResult, chain_advice
from zesty_core.advice.intake import intake_advice
from zesty_core.chain.recipe import ChainStep
from zesty_core.foundation.signal import ArraySource, Span
from zesty_core.measures.report import Levels
from zesty_core.measures.stream import measure
from zesty_core.steps.noise_reduction import NoiseReduction

LENGTH_S = 240
#: Levels are reported at any rate; a low one is quickly made.
RATE = MADE_RATE // 6


@functools.cache
def words_and_room(length_s, pause_s):
    return words(length_s, pause_s)[:, ::6], noise(-55, length_s, RATE)


def take(changes, length_s=LENGTH_S, pause_s=0.3):
    """Words over a room that gets louder by so many decibels at each of some times."""
    voice, room = words_and_room(length_s, pause_s)
    gains_db = np.zeros(voice.shape[1])
    for at_s, by_db in changes:
        gains_db[round(at_s * RATE) :] += by_db
    return (voice + room[:, : voice.shape[1]] * 10 ** (gains_db / 20)).astype(np.float32)


def measured(sound):
    source = ArraySource(sound, RATE)
    return measure(source.blocks(), source.info)


CASES = {
    "steady": ([], None),
    "a fan starts": ([(120, 8)], (120, 240, 8)),
    "a window is open at first": ([(0, 6), (80, -6)], (0, 80, 6)),
    "for a minute and a half": ([(60, 10), (150, -10)], (60, 150, 10)),
    "by less than is heard to matter": ([(120, 2.5)], None),
    "for half a minute": ([(100, 10), (130, -10)], None),
}


@pytest.mark.parametrize("kind", CASES)
def test_a_louder_room_is_found_where_it_is(kind):
    changes, expected = CASES[kind]
    found = measured(take(changes)).noise_floor_shift
    if expected is None:
        assert found is None
        return
    start_s, end_s, by_db = expected
    assert found.span.start_s == pytest.approx(start_s, abs=20)
    assert found.span.end_s == pytest.approx(end_s, abs=20)
    assert found.by_db == pytest.approx(by_db, abs=1.0)


OTHERS = {
    "too short to tell": lambda: take([(50, 10)], 110),
    "nobody pauses for a while": lambda: np.concatenate(
        [take([], 120), take([], 90, pause_s=0.02)], axis=1
    ),
    "digital silence between takes": lambda: np.concatenate(
        [take([], 120), np.zeros((1, 30 * RATE), np.float32), take([], 90)], axis=1
    ),
    "nobody speaks": lambda: noise(-50, 150, RATE),
}


@pytest.mark.parametrize("kind", OTHERS)
def test_what_is_no_louder_room(kind):
    assert measured(OTHERS[kind]()).noise_floor_shift is None


def test_it_is_told_with_what_follows_it():
    m = measured(take([(120, 8)]))
    (told,) = [f for f in intake_advice(m) if f.code == "noise_floor_shift"]
    assert "From about 2:00 to 4:00 the room is 8 dB louder" in told.text
    assert told.act.with_["params"] == {"track_noise": True}
    assert told.at_s == (120,)
    assert m.as_json()["noise_floor_shift"] == {
        "start_s": 120.0,
        "end_s": 240.0,
        "by_db": pytest.approx(8, abs=1),
    }


@pytest.mark.parametrize(
    ("follows", "floor_dbfs", "told"), [(False, -55, True), (True, -55, False), (False, -70, False)]
)
def test_a_chain_that_does_not_follow_is_told_where_it_matters(follows, floor_dbfs, told):
    louder = measured(take([(120, 8)])).noise_floor_shift
    assert louder.span == Span(120, 240)
    chain = (ChainStep(NoiseReduction(track_noise=follows)),)
    before = Levels(-3.0, -20.0, floor_dbfs)
    found = chain_advice(chain, before, [StepResult(before, {})], None, louder)
    assert ("left_behind" in [f.code for f in found]) is told
    if told:
        assert found[0].act.with_ == {"at": 0, "params": {"track_noise": True}}
