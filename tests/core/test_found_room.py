"""Room tone found without help. How loud the room is there is known, since it is made here."""

from __future__ import annotations

import numpy as np
import pytest

from tests.made_sound import RATE, level_db, noise, sinking, spoken, swelling, words
from zesty_core.chain.recipe import chain_from_json
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.signal import ArraySource, joined
from zesty_core.measures.stream import measure

DURATION_S = 12.0
T = np.arange(round(DURATION_S * RATE)) / RATE


def voice(pause_s):
    return words(DURATION_S, pause_s)


def room(level_dbfs, swing_db=0.0, every_s=0.7):
    return swelling(noise(level_dbfs, DURATION_S, seed=4), swing_db, every_s)


def banging(level_dbfs, swing_db=9.0):
    """A room whose level jumps ten times a second, as water and machines do."""
    points = swing_db * np.random.default_rng(3).standard_normal(round(10 * DURATION_S) + 1)
    moving = 10.0 ** (np.interp(T, np.arange(points.size) / 10.0, points) / 20.0)
    made = noise(level_dbfs, DURATION_S, seed=4) * moving
    return (made / np.sqrt(np.mean(moving**2))).astype(np.float32)


def paused(sound, until_s):
    """Nobody speaks before."""
    return sound * (until_s < T)


@pytest.mark.parametrize(
    ("speech", "around", "within_db", "least_s"),
    [
        pytest.param(paused(voice(0.1), 3), room(-60), 0.3, 2, id="quiet"),
        pytest.param(paused(voice(0.1), 3), room(-25), 0.5, 2, id="5 dB under the words"),
        pytest.param(voice(0.8), room(-50), 0.3, 2, id="pauses"),
        pytest.param(voice(0.6), room(-45), 0.4, 1, id="short pauses"),
        # Its calmest half second lies 4 dB under it.
        pytest.param(paused(voice(0.1), 3), room(-50, 5), 1.0, 2, id="restless"),
        pytest.param(paused(voice(0.1), 3), room(-50, 5, 2.5), 1.5, 2, id="slowly restless"),
        # The quietest half second holds words.
        pytest.param(voice(0.15), room(-40), 0.6, 0.2, id="gaps"),
        pytest.param(voice(0.15), room(-60), 0.6, 0.2, id="gaps in a quiet room"),
    ],
)
def test_what_is_learned_from_is_as_loud_as_the_room(speech, around, within_db, least_s):
    source = ArraySource(speech + around, RATE)
    measures = measure(source.blocks(), source.info)
    spans = measures.learned_spans
    assert spans[0] == measures.found_room_tone
    assert sum(s.duration_s for s in spans) >= least_s
    learned = np.concatenate([source.read(*s.samples(RATE)) for s in spans], axis=1)
    assert level_db(learned) == pytest.approx(level_db(around), abs=within_db)


def found_in(sound):
    source = ArraySource(sound.astype(np.float32), RATE)
    return measure(source.blocks(), source.info).learned_spans


def is_pause(span, speech):
    return not np.any(speech[:, slice(*span.samples(RATE))])


@pytest.mark.parametrize("below_db", [7, 10, 20])
def test_a_room_that_bangs_is_found_by_what_has_no_vowels(below_db):
    speech = spoken(DURATION_S) * (T % 4 < 2)
    source = ArraySource(speech + banging(-20 - below_db), RATE)
    measures = measure(source.blocks(), source.info)
    spans = measures.learned_spans
    assert sum(s.duration_s for s in spans) > 2.0
    assert all(is_pause(s, speech) for s in spans)
    # Its calmest half second is not its level.
    there = source.read(*spans[0].samples(RATE))
    assert measures.noise_floor_dbfs == pytest.approx(level_db(there), abs=0.1)
    assert measures.noise_floor_span == spans[0]


def test_breaths_in_a_quiet_room_are_no_restless_room():
    """Pauses of two seconds with a breath in the middle of each, too little calm on either side."""
    sentence = spoken(DURATION_S)[:, round(0.4 * RATE) : round(2.4 * RATE)]
    speech = np.tile(np.pad(sentence, ((0, 0), (0, 2 * RATE))), 3)
    breath = noise(-45, DURATION_S, seed=7) * ((T % 4 > 2.7) & (T % 4 < 3.3))
    around = breath + room(-65)
    spans = found_in(speech + around)
    assert spans
    for span in spans:
        assert level_db(around[:, slice(*span.samples(RATE))]) < -60


def test_who_whispers_is_not_taken_for_a_room():
    """Whispered words, louder and softer, know no pitch and jump as a restless room does; a vowel
    parts them now and then. Gaps in them may be found, not the words."""
    vowel = sum(np.cos(2 * np.pi * 120 * k * T) / k for k in range(1, 20)) * (T % 2 < 0.3)
    whisper = banging(-20, 7.0) * np.where(T % 4 < 2, 1.0, 0.5) * (T % 2 > 0.3)
    for span in found_in(0.02 * vowel + whisper + room(-60)):
        assert level_db(whisper[:, slice(*span.samples(RATE))]) < -35


def test_no_more_is_learned_from_than_is_needed_but_more_is_shown():
    source = ArraySource(voice(0.9) + room(-60), RATE)
    found = measure(source.blocks(), source.info).room_tones
    lasts_s = [one.span.duration_s for one in found]
    used_s = [one.span.duration_s for one in found if one.in_use]
    assert lasts_s == pytest.approx(sorted(lasts_s, reverse=True))
    assert len(found) >= 5
    assert sum(used_s[:-1]) < 2 <= sum(used_s)


@pytest.mark.parametrize(
    "sound",
    [
        pytest.param(sinking(room(-20)), id="no common floor"),
        pytest.param(room(-30), id="nobody speaks"),
        pytest.param(voice(0.4), id="nothing between the words"),
        pytest.param(voice(0.1) + room(-18), id="louder than the words"),
    ],
)
def test_where_nothing_tells_room_and_voice_apart_none_is_found(sound):
    source = ArraySource(sound, RATE)
    measures = measure(source.blocks(), source.info)
    assert measures.room_tones == measures.learned_spans == ()


@pytest.mark.parametrize("level_dbfs", [-30, -40, -50])
def test_a_voice_that_does_not_pause_keeps_its_level(level_dbfs):
    speech, around = spoken(DURATION_S)[:, : T.size] * (T % 2.5 < 2.3), room(level_dbfs)
    pieces = []
    (nr,) = chain_from_json([{"type": "noise_reduction"}])
    result = run_chain(ArraySource(speech + around, RATE), (nr,), pieces.append)
    after = joined(iter(pieces), 1)
    assert result.room_tone_source == "found"
    assert result.room_tone_json()["learned_spans"] == [s.as_json() for s in result.learned_spans]
    loud = np.abs(speech) > 0.1
    assert level_db(after[loud]) == pytest.approx(level_db((speech + around)[loud]), abs=0.3)
    assert level_db(after - speech) < level_db(around) - 4


def soft_around_a_gap(start_s, length_s=0.17):
    """Speech that is soft for a second or more, in which there is one gap."""
    soft = (start_s - 0.8 < T) & (start_s + 1.0 > T)
    gap = (start_s < T) & (start_s + length_s > T)
    return noise(-16, DURATION_S) * np.where(gap, 0, np.where(soft, 0.2, 1)) + room(-60)


@pytest.mark.parametrize(
    ("start_s", "found"),
    [
        pytest.param(4.0, [4], id="between the words"),
        pytest.param(0.0, [], id="where it begins"),
        pytest.param(DURATION_S - 0.17, [], id="where it ends"),
    ],
)
def test_one_gap_is_enough_where_it_lies_between_words(start_s, found):
    source = ArraySource(np.float32(soft_around_a_gap(start_s)), RATE)
    spans = measure(source.blocks(), source.info).learned_spans
    assert [round(span.start_s) for span in spans] == found
