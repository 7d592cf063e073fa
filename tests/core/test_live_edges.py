"""Odd sound on the workbench: silence, very short, stereo, low and high rates. Nothing breaks, nothing
is NaN, and room tone arrives where it should."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest

from tests.made_sound import RATE, level_db, noise, sine, spoken
from zesty_core.chain.recipe import chain_from_json
from zesty_core.chain.tone_in_chain import (
    noise_at,
    noise_span,
    shortened,
    spoken_before,
    tone_after,
    tone_before,
)
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import ArraySource, Span
from zesty_core.live.chain import LiveChain
from zesty_core.live.passage import PassageCache
from zesty_core.measures.found_room import FoundRoomTone
from zesty_core.measures.stream import measure
from zesty_core.steps.pictures import PicturedPassage
from zesty_core.steps.registry import STEP_TYPES

TYPES = sorted(STEP_TYPES)
FOLLOWS = ("gate", "de_esser", "compressor")


def one(type_):
    params = {"follow_voice": True} if type_ in FOLLOWS else {}
    if type_ == "gain":
        params = {"gain_db": 3}
    if type_ == "eq":
        band = {"type": "bell", "freq_hz": 900, "gain_db": 4, "q": 1}
        params = {"bands": [band]}
    if type_ in ("saturation", "ambience"):
        params = {"mix": 0.3}
    return {"type": type_, "params": params}


ODD = {
    "digital silence": (np.zeros((1, 3 * RATE), np.float32), RATE),
    "a tenth of a second": (noise(-30, 0.1), RATE),
    "stereo": (np.concatenate([spoken(4), noise(-40, 4)]), RATE),
    "8 kHz": (spoken(4, 8_000) + noise(-60, 4, 8_000), 8_000),
    "96 kHz": (spoken(2, 96_000) + noise(-60, 2, 96_000), 96_000),
    "full scale": (np.sign(sine(0, 3, 100)), RATE),
    "an offset": (np.full((1, 2 * RATE), 0.25, np.float32), RATE),
}


@pytest.mark.parametrize("name", ODD)
@pytest.mark.parametrize("type_", TYPES)
def test_every_step_and_its_picture_bear_it(name, type_):
    sound, rate = ODD[name]
    live = LiveChain(ArraySource(sound, rate))
    chain = chain_from_json([one(type_)])
    heard = live.hear(chain, Span(0, sound.shape[1] / rate))
    assert heard.passage.after.shape == sound.shape
    assert np.isfinite(heard.passage.after).all()
    (point,) = heard.points
    json.dumps([point.levels.as_json(), point.report], allow_nan=False)
    stage = heard.passage.stages.get(0)
    facts, after = (stage.facts, stage.sound) if stage else ({"idle": True}, sound)
    tones = point.tone_before, point.tone_after
    passage = PicturedPassage(facts, heard.passage.before, after, *tones, rate)
    made = chain[0].step.picture(passage)
    json.dumps(made, allow_nan=False)


@pytest.mark.parametrize(
    ("span", "told"), [(Span(1, 99), "must lie within"), (Span(2, 1), "start before the end")]
)
def test_passages_that_do_not_fit(span, told):
    with pytest.raises(BadInput, match=told):
        LiveChain(ArraySource(noise(-30, 3), RATE)).hear((), span)


ROOM = np.concatenate([noise(-60, 2), spoken(3), noise(-50, 2, seed=5)], axis=1)
SOURCE = ArraySource(ROOM, RATE)
MEASURES = measure(SOURCE.blocks(), SOURCE.info)


def found(*spans):
    """Measures in which so much room tone was found."""
    one = FoundRoomTone(Span(0, 1), -60.0, 0.5, 0.0, in_use=True)
    others = (replace(one, span=Span(6, 8), in_use=False),)
    return replace(MEASURES, room_tones=tuple(replace(one, span=s) for s in spans) + others)


FOUND = found(Span(0.2, 1.8))


def length_s(pieces):
    return [round((p.sound.shape[1] - p.lead) / RATE, 3) for p in pieces]


@pytest.mark.parametrize(
    ("given", "measures", "lengths"),
    [
        (None, found(), []),
        (None, FOUND, [1.6]),
        (None, found(Span(0.2, 1.8), Span(5.2, 5.5)), [1.6, 0.3]),
        (RoomTone(spans=(Span(0.5, 1.0),)), FOUND, [0.5]),
        (RoomTone(spans=(Span(0.5, 1.0), Span(5.5, 6.5))), FOUND, [0.5, 1.0]),
        (RoomTone(samples=noise(-60, 1, 16_000), sample_rate_hz=16_000), FOUND, [1.0]),
    ],
)
def test_room_tone_is_the_given_one_else_the_found_one(given, measures, lengths):
    assert length_s(tone_before(SOURCE, given, measures)) == lengths


LONG_S = SOURCE.info.duration_s


@pytest.mark.parametrize(
    ("given", "measures", "lengths"),
    [
        (None, found(), [min(LONG_S, 15.0)]),
        (None, found(Span(1.0, 2.4)), [min(LONG_S, 15.0)]),
        (None, FOUND, []),
        (None, replace(found(), voice_level_dbfs=None), []),
        (None, replace(found(), noise_floor_dbfs=None, digital_silence_share=0.4), []),
        (RoomTone(spans=(Span(0.5, 1.0),)), found(), []),
    ],
    ids=["none found", "a short one", "a long one", "nobody speaks", "silence between", "marked"],
)
def test_speech_is_learned_from_where_no_long_pause_was_found(given, measures, lengths):
    assert length_s(spoken_before(SOURCE, given, measures)) == lengths


def test_the_stretch_of_speech_lies_about_what_was_found():
    long = ArraySource(np.arange(60 * RATE, dtype=np.float32)[None], RATE)
    for about, start_s in ((Span(40, 40.5), 32.75), (Span(2, 2.5), 0.0), (Span(58, 59), 45.0)):
        (piece,) = spoken_before(long, None, found(about))
        assert length_s([piece]) == [15.0]
        assert piece.sound[0, piece.lead] == pytest.approx(start_s * RATE)


def test_room_tone_of_another_rate_and_channel_count_fits():
    pair = ArraySource(np.tile(ROOM, (2, 1)), RATE)
    tone = RoomTone(samples=noise(-60, 1, 96_000), sample_rate_hz=96_000)
    (piece,) = tone_before(pair, tone, FOUND)
    assert piece.sound.shape == (2, RATE)
    # Half of the white noise lies above what 48 kHz can hold.
    assert level_db(piece.sound) == pytest.approx(level_db(tone.samples) - 3.01, abs=0.5)


def test_room_tone_goes_through_the_steps_and_is_cut_to_length():
    (gain,) = chain_from_json([{"type": "gain", "params": {"gain_db": -12}}])
    pieces = tone_before(SOURCE, None, FOUND)
    after = tone_after(pieces, [(gain.step, {})], SOURCE.info)
    assert level_db(after) == pytest.approx(
        level_db(ROOM[:, int(0.2 * RATE) : int(1.8 * RATE)]) - 12, abs=0.01
    )
    assert tone_after([], [(gain.step, {})], SOURCE.info) is None
    short = shortened(pieces[0], SOURCE.info, 0.5)
    assert length_s([short]) == [0.5]
    assert length_s([shortened(pieces[0], SOURCE.info, 9)]) == [1.6]


@pytest.mark.parametrize(
    ("given", "source", "level_dbfs"),
    [
        (None, "found", -60),
        (RoomTone(spans=(Span(5.2, 6.8),)), "marked", -50),
        (RoomTone(spans=(Span(0.5, 0.7), Span(5.2, 6.8))), "marked", -50),
        (RoomTone(samples=noise(-40, 1), sample_rate_hz=RATE), "other recording", -60),
    ],
)
def test_noise_is_read_where_the_room_tone_lies(given, source, level_dbfs):
    span, told = noise_span(given, MEASURES)
    assert told == source
    assert noise_at(SOURCE, span) == pytest.approx(level_dbfs, abs=0.5)
    assert noise_at(ArraySource(np.zeros((1, 3 * RATE), np.float32), RATE), Span(0, 1)) is None


def test_the_cache_forgets_the_oldest_and_keeps_what_is_used():
    live = LiveChain(SOURCE)
    chain = [
        chain_from_json([{"type": "gain", "params": {"gain_db": -k / 2}}]) for k in range(1, 90)
    ]
    first = live.hear(chain[0], Span(1, 3)).passage.after
    for other in chain[1:]:
        live.hear(other, Span(1, 3))
    again = live.hear(chain[0], Span(1, 3)).passage.after
    assert np.array_equal(first, again)
    assert len(live.cache._kept) <= live.cache.most


def test_the_cache_holds_no_more_sound_than_it_may():
    cache = PassageCache(most=100, most_bytes=1_000_000)
    block = np.zeros((1, 100_000), np.float32)
    for turn in range(9):
        cache.keep(str(turn), (block, {"report": 1}))
    assert [cache.get(str(k)) is not None for k in range(9)] == [False] * 7 + [True] * 2
    cache.keep("8", (block, {}))
    assert cache.get("7") is not None
    cache.keep("one that is larger", np.zeros((1, 900_000), np.float32))
    assert cache.get("one that is larger") is not None
    assert cache.get("8") is None
