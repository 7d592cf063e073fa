"""Who speaks when: turns, levels, corrections by hand, and what the leveller makes of them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests.interview import interview, lines
from tests.made_sound import RATE, level_db, noise
from zesty_core.audio.edits import FileEdits, checked_speakers, edited
from zesty_core.chain.recipe import ChainStep
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.marks import MarkedSource, Marks, marks_of
from zesty_core.foundation.signal import ArraySource, SignalInfo, Span, joined
from zesty_core.foundation.speakers import Speakers, Turn
from zesty_core.live.passage import render_passage
from zesty_core.measures.speaker_frames import SpeakerFramesMeter
from zesty_core.measures.speakers import find_speakers, speaker_phrases
from zesty_core.steps.gain import Gain
from zesty_core.steps.leveller import Leveller

PAIR = ["letters-warden", "counting-lesson"]


@pytest.fixture(scope="module")
def talk():
    """Two voices, one microphone, the second 10 dB softer; sometimes both speak."""
    return interview(PAIR, [0.0, -10.0], together=True)


def frames_of(sound, block=65_536):
    meter = SpeakerFramesMeter(SignalInfo(RATE, *sound.shape))
    for start in range(0, sound.shape[1], block):
        meter.push(sound[:, start : start + block])
    return meter.finish()


def right_share(found, truth):
    """Share of the time of turns over a second, where one speaks alone, with the right speaker."""
    ends = max(end for _, end, _ in truth)
    true, got = np.full(round(ends * 100) + 100, -1), np.full(round(ends * 100) + 100, -1)
    for start, end, who in truth:
        span = slice(round(start * 100), round(end * 100))
        true[span] = np.where(true[span] == -1, who, -2)
    for turn in found.turns:
        got[round(turn.start_s * 100) : round(turn.end_s * 100)] = turn.speaker
    both = (true >= 0) & (got >= 0)
    assert both.sum() > 0.7 * (true >= 0).sum()
    return float((true[both] == got[both]).mean())


@pytest.mark.parametrize("pair", [PAIR, ["hide-guide-causeway", "volunteer-desk"]])
@pytest.mark.parametrize("softer_db", [10.0, 3.0])
def test_each_turn_has_its_speaker(pair, softer_db):
    sound, truth = interview(pair, [0.0, -softer_db], together=True)
    assert right_share(find_speakers(frames_of(sound), 2), truth) > 0.95


def test_how_many_speak_is_found(talk):
    assert len(find_speakers(frames_of(talk[0])).names) == 2
    alone = np.concatenate(lines(PAIR[0]))[None] + noise(-70, sum(map(len, lines(PAIR[0]))) / RATE)
    assert len(find_speakers(frames_of(alone)).names) == 1


def test_sides_tell_speakers_apart_too():
    """One voice on both sides in turn: only the side differs."""
    sound, truth = interview([PAIR[0], PAIR[0]], [0.0, 0.0])
    stereo = np.repeat(sound * 0.2, 2, axis=0)
    for start, end, who in truth:
        stereo[who, round(start * RATE) : round(end * RATE)] *= 5
    assert right_share(find_speakers(frames_of(stereo), 2), truth) > 0.95


def test_blocks_of_any_size_give_the_same_frames(talk):
    whole, pieces = frames_of(talk[0], talk[0].shape[1]), frames_of(talk[0], 4_801)
    assert np.array_equal(whole.cepstra, pieces.cepstra)
    assert np.array_equal(whole.pitch_octaves, pieces.pitch_octaves)


def test_pitch_is_that_of_the_voice():
    t = np.arange(RATE) / RATE
    for freq_hz in (80.0, 143.0, 290.0):
        tone = sum(np.sin(2 * np.pi * k * freq_hz * t) / k for k in range(1, 12))
        pitch = frames_of((0.1 * tone)[None].astype(np.float32)).pitch_octaves[5:-5]
        assert 2 ** np.median(pitch) == pytest.approx(freq_hz, rel=0.02)


@pytest.mark.parametrize("sound", [np.zeros((1, RATE), np.float32), noise(-60, 0.01)])
def test_where_nobody_speaks_there_are_no_turns(sound):
    assert find_speakers(frames_of(sound)).turns == ()


def levelled(source, *before, **params):
    out = []
    chain = (*before, ChainStep(Leveller(**{"speakers": "two", "range_db": 18.0} | params)))
    result = run_chain(source, chain, out.append)
    return joined(out, source.info.channels), result


def apart_db(sound, truth):
    """How much louder the first speaker is, where each speaks alone."""
    levels = {}
    for (start, end, who), (after, *_) in zip(truth, [*truth[1:], (1e9,)], strict=True):
        alone = sound[0, round((start + 0.6) * RATE) : round(min(end, after) * RATE) - RATE // 2]
        levels.setdefault(who, []).append(np.mean(np.square(alone, dtype=np.float64)))
    return 10 * np.log10(np.mean(levels[0]) / np.mean(levels[1]))


def test_speakers_come_to_one_level(talk):
    sound, truth = talk
    assert apart_db(sound, truth) > 9
    out, result = levelled(ArraySource(sound, RATE))
    assert abs(apart_db(out, truth)) < 1
    first, second = result.points[0].report["speaker_levels"]
    assert first["before_dbfs"] - second["before_dbfs"] == pytest.approx(10, abs=1)
    assert first["after_dbfs"] == pytest.approx(second["after_dbfs"], abs=0.5)


def test_a_plain_gain_before_it_changes_no_turn(talk):
    """The recording's figures move with the gain, so the voices are looked at in a pass of its own."""
    source = ArraySource(talk[0], RATE)
    plain, softer = levelled(source), levelled(source, ChainStep(Gain(gain_db=-6.0)))
    turns = [result.points[-1].report["speakers"] for _, result in (plain, softer)]
    assert turns[0] == turns[1]
    assert level_db(plain[0]) - level_db(softer[0]) == pytest.approx(6, abs=0.1)


def test_what_a_person_settled_is_used(talk):
    swapped = Speakers(("Host", "Guest"), ((Turn(0.0, 40.0, 1)), Turn(40.0, 60.0, 0)))
    source = MarkedSource(ArraySource(talk[0], RATE), Marks(swapped))
    _, result = levelled(source)
    assert Speakers.from_json(result.points[0].report["speakers"]) == swapped
    assert [row["name"] for row in result.points[0].report["speaker_levels"]] == ["Host", "Guest"]


def test_a_passage_has_the_gains_of_its_own_time(talk):
    source = ArraySource(talk[0], RATE)
    whole, result = levelled(source)
    chain = (ChainStep(Leveller(speakers="two", range_db=18.0)),)
    passage = render_passage(source, chain, {0: result.points[0].facts}, Span(20.0, 26.0))
    assert np.array_equal(passage.after, whole[:, 20 * RATE : 26 * RATE])


def test_phrases_end_where_another_begins():
    t = np.arange(4 * RATE) / RATE
    sound = (0.1 * np.sin(2 * np.pi * 200 * t))[None].astype(np.float32)
    sound[:, 2 * RATE :] *= 0.1
    speakers = Speakers(("A", "B"), (Turn(0.0, 2.0, 0), Turn(2.0, 4.0, 1)))
    first, second = speaker_phrases(frames_of(sound), speakers)
    assert (first.end_s, second.start_s) == (2.0, 2.0)
    assert first.level_dbfs - second.level_dbfs == pytest.approx(20, abs=0.3)


def test_turns_move_with_the_cuts(talk):
    speakers = Speakers(("A", "B"), (Turn(1.0, 4.0, 0), Turn(5.0, 6.0, 1), Turn(7.0, 9.0, 0)))
    edits = FileEdits([{"start_s": 3.0, "end_s": 6.5}], speakers=speakers.as_json())
    moved = marks_of(edited(ArraySource(talk[0], RATE), edits, None)).speakers
    assert moved == replace(speakers, turns=(Turn(1.0, 3.0, 0), Turn(3.5, 5.5, 0)))


GOOD = {"names": ["A", "B"], "turns": [{"start_s": 0, "end_s": 1, "speaker": 1}]}


def turn(**changed):
    return GOOD | {"turns": [GOOD["turns"][0] | changed]}


@pytest.mark.parametrize(
    ("value", "message"),
    [
        ([], "no object with names and turns"),
        (GOOD | {"more": 1}, "no object with names and turns"),
        (GOOD | {"names": []}, "1 to 6"),
        (GOOD | {"names": ["A", " "]}, "name 2 is ' '"),
        (GOOD | {"turns": {}}, "turns are a list"),
        (GOOD | {"turns": [3]}, "turns.0 needs start_s"),
        (turn(start_s="0"), "seconds are numbers"),
        (turn(end_s=float("nan")), "seconds are numbers"),
        (turn(start_s=2), "goes from 2 to 1 s"),
        (turn(speaker=2), "0 to 1 are allowed"),
        (turn(speaker=True), "0 to 1 are allowed"),
        (turn(end_s=90), "but the recording at 60 s"),
        (GOOD | {"turns": [*GOOD["turns"], *GOOD["turns"]]}, "before the one before it ends"),
    ],
)
def test_what_does_not_fit_is_refused_by_name(value, message):
    with pytest.raises(BadInput, match=message):
        checked_speakers(value, 60.0)
    assert checked_speakers(GOOD, 60.0) == Speakers.from_json(GOOD).as_json()
    assert checked_speakers(None, 60.0) is None
