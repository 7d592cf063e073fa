"""The leveller: phrases at one level, pauses untouched, no steps inside a word."""

from __future__ import annotations

import numpy as np
import pytest

from tests.made_sound import RATE, level_db, noise, spoken
from zesty_core.chain.recipe import ChainStep
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.signal import ArraySource, Span, joined
from zesty_core.live.passage import render_passage
from zesty_core.measures.stream import measure
from zesty_core.steps.leveller import Leveller

#: Phrases that jump by up to 12 dB, with pauses of 0.6 s.
STEPS_DB = (0.0, -12.0, -2.0, -9.0, 1.0, -11.0, -4.0, -8.0)
PAUSE_S, PHRASE_S = 0.6, 2.0
ROOM_DBFS = -75.0


def phrase(gain_db):
    """Without a pause of its own."""
    sound = spoken(20, RATE, seed=3)
    loud = np.flatnonzero(np.abs(sound[0]) > 1e-3)
    dense = sound[:, loud][:, : round(PHRASE_S * RATE)]
    return dense * 10 ** (gain_db / 20)


def uneven(steps_db=STEPS_DB, channels=1):
    pause = np.zeros((1, round(PAUSE_S * RATE)), np.float32)
    parts = [pause]
    for gain_db in steps_db:
        parts += [phrase(gain_db), pause]
    voice = np.concatenate(parts, axis=1)
    sound = voice + noise(ROOM_DBFS, voice.shape[1] / RATE + 0.1, RATE)[:, : voice.shape[1]]
    return np.repeat(sound.astype(np.float32), channels, axis=0)


def levelled(sound, **params):
    out = []
    chain = (ChainStep(Leveller(**params)),)
    result = run_chain(ArraySource(sound, RATE), chain, out.append)
    return joined(out, len(sound)), result


def spread_db(sound):
    source = ArraySource(sound, RATE)
    phrases = measure(source.blocks(), source.info).speech_events.phrases
    levels = [p.level_dbfs for p in phrases]
    assert len(levels) == len(STEPS_DB)
    return float(np.subtract(*np.percentile(levels, (90, 10))))


def test_phrases_come_to_one_level_and_pauses_stay():
    sound = uneven()
    out, result = levelled(sound)
    assert spread_db(sound) > 9
    assert spread_db(out) < 2
    pause = slice(round(0.1 * RATE), round(0.3 * RATE))
    assert level_db(out[:, pause]) - level_db(sound[:, pause]) == pytest.approx(0, abs=0.05)
    report = result.points[0].report
    assert report["phrases"] == len(STEPS_DB)
    assert report["spread_after_db"] < 2
    assert report["spread_before_db"] > 9


def test_a_phrase_keeps_its_shape():
    """One gain from a phrase's first sample to its last: nothing of a compressor."""
    sound = uneven()
    out, _ = levelled(sound)
    for number in range(len(STEPS_DB)):
        first = round((PAUSE_S + number * (PAUSE_S + PHRASE_S)) * RATE)
        here = slice(first, first + round(PHRASE_S * RATE))
        loud = np.abs(sound[0, here]) > 0.01
        gains_db = 20 * np.log10(np.abs(out[0, here][loud] / sound[0, here][loud]))
        assert np.ptp(gains_db) < 0.01


@pytest.mark.parametrize(
    ("params", "at_least", "at_most"),
    [
        ({"evening_percent": 50.0}, 4, 6.5),
        ({"range_db": 2.0}, 5, 9),
        ({"evening_percent": 100.0, "range_db": 18.0}, 0, 0.3),
    ],
)
def test_evening_and_range_hold_it_back(params, at_least, at_most):
    assert at_least <= spread_db(levelled(uneven(), **params)[0]) <= at_most


def test_a_gain_before_it_changes_nothing_else():
    sound = uneven()
    plain, _ = levelled(sound)
    softer, _ = levelled((0.5 * sound).astype(np.float32))
    assert 2 * softer == pytest.approx(plain, abs=2e-3 * float(np.abs(plain).max()))


def test_both_sides_get_the_same_gain():
    sound = uneven(channels=2)
    sound[1] *= 0.5
    out, _ = levelled(sound)
    assert out[1] == pytest.approx(0.5 * out[0], abs=1e-6)


@pytest.mark.parametrize("start_s", [0.0, 3.3, 11.7])
def test_a_passage_has_the_gain_of_its_own_time(start_s):
    sound = uneven()
    whole, result = levelled(sound)
    chain = (ChainStep(Leveller()),)
    span = Span(start_s, start_s + 3)
    passage = render_passage(ArraySource(sound, RATE), chain, {0: result.points[0].facts}, span)
    expected = whole[:, round(span.start_s * RATE) : round(span.end_s * RATE)]
    assert np.array_equal(passage.after, expected)


def test_one_phrase_is_left_alone():
    out, result = levelled(uneven((0.0,)))
    assert np.array_equal(out, uneven((0.0,)))
    assert "fewer than two phrases" in result.points[0].report["note"]
