"""Declip: crests come back, all else stays bit for bit."""

from __future__ import annotations

import numpy as np
import pytest

from tests.interview import lines
from tests.made_sound import RATE, sine
from zesty_core.chain.recipe import ChainStep
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.signal import ArraySource, Span, joined
from zesty_core.live.passage import render_passage
from zesty_core.steps.declip import Declip

VOICES = ("letters-warden", "counting-lesson", "hide-guide-causeway")


def line(voice):
    """Three seconds with the voice's highest crest, which stands at full scale."""
    sound = lines(voice)[0]
    middle = int(np.clip(np.abs(sound).argmax(), 1.5 * RATE, len(sound) - 1.5 * RATE))
    cut = sound[middle - round(1.5 * RATE) : middle + round(1.5 * RATE)]
    return (cut / np.abs(cut).max())[None].astype(np.float32)


def clipped(sound, over_db):
    level = np.float32(10 ** (-over_db / 20))
    # A sample just under the level lies as flat as those that were cut off.
    return np.clip(sound, -level, level), np.abs(sound) > level * (1 - 2e-4)


def processed(sound, room_db=0.0, **more):
    out = []
    chain = (ChainStep(Declip(room_db=room_db)),)
    result = run_chain(ArraySource(sound, RATE), chain, out.append, **more)
    return joined(out, len(sound)), result


def sdr_db(true, sound):
    """Scale-invariant ratio of signal to distortion (Le Roux et al., ICASSP 2019)."""
    true, sound = true.astype(np.float64), sound.astype(np.float64)
    aim = (true @ sound) / (true @ true) * true
    return 10 * np.log10((aim @ aim) / ((sound - aim) @ (sound - aim)))


@pytest.mark.parametrize(("over_db", "gain_db"), [(3.0, 6.0), (6.0, 6.0), (10.0, 4.0)])
def test_cut_off_spans_come_closer_to_what_they_were(over_db, gain_db):
    gains = []
    for voice in VOICES:
        true = line(voice)
        sound, cut = clipped(true, over_db)
        out, result = processed(sound)
        assert np.array_equal(out[~cut], sound[~cut])
        assert (np.abs(out[cut]) >= np.abs(sound[cut]) * 0.9999).all()
        gains.append(sdr_db(true[cut], out[cut]) - sdr_db(true[cut], sound[cut]))
        assert result.points[0].report["crests"] > 5
        # A single sample on the top is no flat crest.
        first_s = np.flatnonzero(cut[0, 1:] & cut[0, :-1])[0] / RATE
        assert result.points[0].report["at_s"][0] == pytest.approx(first_s, abs=0.02)
    assert min(gains) > 3
    assert np.mean(gains) > gain_db


def test_what_is_not_clipped_keeps_every_bit():
    sound = 0.9 * line(VOICES[0])
    out, result = processed(sound, room_db=6.0)
    assert np.array_equal(out, sound)
    assert "no crest lies flat" in result.points[0].report["note"]


def test_room_is_made_and_the_highest_crest_is_reported():
    sound, _ = clipped(sine(0, 1, 440), 4.0)
    plain, result = processed(sound)
    roomy, _ = processed(sound, room_db=6.0)
    assert roomy == pytest.approx(plain * 10 ** (-6 / 20), abs=1e-6)
    assert np.abs(roomy).max() < 1
    assert result.points[0].report["rebuilt_db"] == pytest.approx(4.0, abs=0.8)


def test_each_channel_has_its_own_top():
    true = np.concatenate([line(VOICES[0]), 0.5 * line(VOICES[1])])
    sound = np.concatenate([clipped(true[:1], 6.0)[0], true[1:]])
    out, _ = processed(sound)
    assert not np.array_equal(out[0], sound[0])
    assert np.abs(out[1] - sound[1]).max() < 1e-3


def test_blocks_of_any_size_and_passages_equal_the_run():
    sound, _ = clipped(line(VOICES[1]), 6.0)
    whole, result = processed(sound)
    pieces, _ = processed(sound, block_samples=4_801)
    assert np.array_equal(whole, pieces)
    chain = (ChainStep(Declip(room_db=0.0)),)
    span = Span(1.1, 2.3)
    passage = render_passage(ArraySource(sound, RATE), chain, {0: result.points[0].facts}, span)
    assert np.array_equal(passage.after, whole[:, round(1.1 * RATE) : round(2.3 * RATE)])
