"""Crosstalk between two microphones: down by more than 10 dB, no word chopped."""

from __future__ import annotations

import numpy as np
import pytest

from tests.interview import interview
from tests.made_sound import RATE, level_db, noise
from zesty_core.chain.recipe import ChainStep
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.signal import ArraySource, Span, joined
from zesty_core.live.passage import render_passage
from zesty_core.steps.crosstalk import Crosstalk

CROSSTALK_DB = -15.0


def two_microphones(softer_db=0.0):
    """Both sides, the voices alone, and the turns: each microphone has the other voice 15 dB down, and
    a little later."""
    sound, truth = interview(
        ["letters-warden", "counting-lesson"], [0.0, -softer_db], together=True
    )
    owners = np.full(sound.shape[1], -1)
    voices = np.zeros((2, sound.shape[1]), np.float32)
    for start, end, who in truth:
        span = slice(round(start * RATE), round(end * RATE))
        both = owners[span] >= 0
        owners[span] = np.where(both, -2, who)
        voices[who, span] = sound[0, span]
    late = round(0.003 * RATE)
    across = np.roll(voices[::-1], late, axis=1) * 10 ** (CROSSTALK_DB / 20)
    sides = voices + across + noise(-72, sound.shape[1] / RATE, channels=2)[:, : sound.shape[1]]
    return sides.astype(np.float32), owners


def processed(sides, **params):
    out = []
    result = run_chain(ArraySource(sides, RATE), (ChainStep(Crosstalk(**params)),), out.append)
    return joined(out, len(sides)), result


@pytest.mark.parametrize("softer_db", [0.0, 8.0])
def test_crosstalk_falls_and_words_stay_whole(softer_db):
    sides, owners = two_microphones(softer_db)
    out, result = processed(sides)
    for own, other in ((0, 1), (1, 0)):
        speaks = owners == own
        down_db = level_db(sides[other, speaks]) - level_db(out[other, speaks])
        assert down_db > 10
        assert level_db(out[own, speaks] - sides[own, speaks]) < level_db(sides[own, speaks]) - 40
    report = result.points[0].report
    assert report["crosstalk_left_db"] == pytest.approx(CROSSTALK_DB, abs=1.5)
    assert report["crosstalk_right_db"] == pytest.approx(CROSSTALK_DB, abs=1.5)
    assert 0.2 < report["left_down_share"] < 0.8


def test_both_sides_are_open_while_both_speak():
    sides, owners = two_microphones()
    out, _ = processed(sides)
    # Only where sound is that is no gap of either.
    both = owners == -2
    assert both.sum() > RATE / 2
    assert level_db(out[:, both]) == pytest.approx(level_db(sides[:, both]), abs=0.5)


@pytest.mark.parametrize(("width_percent", "apart_db"), [(100.0, 30), (40.0, 7), (0.0, 0)])
def test_sides_come_together(width_percent, apart_db):
    sides, owners = two_microphones()
    out, _ = processed(sides, width_percent=width_percent)
    speaks = owners == 0
    assert level_db(out[0, speaks]) - level_db(out[1, speaks]) == pytest.approx(apart_db, abs=3)
    assert width_percent > 0 or np.array_equal(out[0], out[1])


def test_a_passage_equals_the_run_and_blocks_of_any_size():
    sides, _ = two_microphones()
    whole, result = processed(sides)
    chain = (ChainStep(Crosstalk()),)
    facts = {0: result.points[0].facts}
    passage = render_passage(ArraySource(sides, RATE), chain, facts, Span(11.003, 15.0))
    assert level_db(passage.after - whole[:, round(11.003 * RATE) : 15 * RATE]) < -120
    out = []
    run_chain(ArraySource(sides, RATE), chain, out.append, block_samples=4_099)
    assert np.array_equal(joined(out, 2), whole)


@pytest.mark.parametrize(
    ("sound", "note"),
    [
        (noise(-20, 4), "needs two sides"),
        (np.repeat(noise(-20, 4), 2, axis=0), "no voice on each side"),
        (np.zeros((2, RATE), np.float32), "no voice on each side"),
    ],
)
def test_where_sides_do_not_tell_it_leaves_all_as_it_is(sound, note):
    out, result = processed(sound)
    assert np.array_equal(out, sound)
    assert note in result.points[0].report["note"]
