"""Click, plosive, breath: planted events are found and mended, all else stays bit for bit."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.signal import butter, sosfiltfilt

from tests.interview import lines
from tests.made_sound import RATE, level_db, noise
from zesty_core.audio.edits import FileEdits, checked_repairs, edited
from zesty_core.chain.recipe import chain_from_json
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.signal import ArraySource, Span, joined
from zesty_core.live.passage import render_passage

VOICES = ("letters-warden", "hide-guide-causeway")


def take(voice, seconds=12.0, gap_s=0.9):
    """Lines with pauses, in a quiet room; and where the pauses are."""
    parts, gaps, at = [], [], 0
    for line in lines(voice):
        pause = round(gap_s * RATE)
        parts += [line, np.zeros(pause, np.float32)]
        gaps.append((at + len(line), at + len(line) + pause))
        at += len(line) + pause
        if at > seconds * RATE:
            break
    sound = np.concatenate(parts)[None].astype(np.float32)
    return sound + noise(-75, sound.shape[1] / RATE, RATE)[:, : sound.shape[1]], gaps


def run(sound, kind, edits=None, **params):
    source = ArraySource(sound.astype(np.float32), RATE)
    source = edited(source, edits, None) if edits else source
    out = []
    result = run_chain(source, chain_from_json([{"type": kind, "params": params}]), out.append)
    return joined(out, len(sound)), result.points[0].report


def inside(report, length):
    flags = np.zeros(length, bool)
    for start_s, end_s, _ in report["events"]:
        # Times are given to a tenth of a millisecond.
        flags[max(0, round(start_s * RATE) - 6) : round(end_s * RATE) + 6] = True
    return flags


def click(length, freq_hz, peak):
    at = np.arange(length)
    return peak * np.exp(-5 * at / length) * np.cos(2 * np.pi * freq_hz * at / RATE)


def thump(seconds, freq_hz, level_dbfs):
    at = np.arange(round(seconds * RATE)) / RATE
    made = np.sin(2 * np.pi * freq_hz * at) * np.exp(-4 * at / seconds) * (1 - np.exp(-at / 3e-3))
    return made * 10 ** ((level_dbfs - level_db(made)) / 20)


def breath(seconds, level_dbfs, seed):
    """Noise through two resonances of a throat, swelling and falling."""
    sound = noise(-20, seconds, RATE, seed=seed)[0].astype(float)
    made = sum(
        sosfiltfilt(butter(1, (0.7 * hz, 1.4 * hz), "bandpass", fs=RATE, output="sos"), sound)
        for hz in (1100.0, 2900.0)
    )
    place = np.linspace(0, 1, len(made))
    made = made * np.minimum(1, place / 0.4) * np.minimum(1, (1 - place) / 0.2)
    return made * 10 ** ((level_dbfs - level_db(made)) / 20)


@pytest.mark.parametrize(("milliseconds", "freq_hz"), [(0.3, 3000), (1.0, 5000), (3.0, 2500)])
def test_clicks_are_found_and_what_lies_under_them_comes_back(milliseconds, freq_hz):
    sound, gaps = take(VOICES[0])
    marked = sound.copy()
    places = [(a + b) // 2 + shift for a, b in gaps for shift in (-9600, 0, 9600)]
    for at in places:
        made = click(max(4, round(milliseconds * RATE / 1000)), freq_hz, 0.05)
        marked[0, at : at + len(made)] += made
    out, report = run(marked, "click")
    flags = inside(report, sound.shape[1])
    assert all(flags[at : at + 20].any() for at in places)
    # Outside of what it names nothing changes.
    assert np.array_equal(out[0, ~flags], marked[0, ~flags])
    left, planted = (out - sound)[0], (marked - sound)[0]
    around = np.zeros(len(flags), bool)
    for at in places:
        around[at - 300 : at + 600] = True
    assert level_db(left[around]) < level_db(planted[around]) - 20


def test_a_click_within_a_vowel_is_lowered_too():
    line = lines(VOICES[1])[0]
    loud = int(np.convolve(np.square(line), np.ones(4800), "same").argmax())
    sound = line[None].astype(np.float32)
    marked = sound.copy()
    made = click(24, 6000, 0.9)
    marked[0, loud : loud + 24] += made
    out, report = run(marked, "click")
    assert report["mended"] >= 1
    left, planted = (out - sound)[0], (marked - sound)[0]
    span = slice(loud - 100, loud + 200)
    assert level_db(left[span]) < level_db(planted[span]) - 15


@pytest.mark.parametrize("kind", ["click", "plosive", "breath"])
@pytest.mark.parametrize("voice", VOICES)
def test_clean_speech_is_left_alone(kind, voice):
    sound, _ = take(voice, 25.0)
    out, report = run(sound, kind)
    flags = inside(report, sound.shape[1])
    assert np.array_equal(out[0, ~flags], sound[0, ~flags])
    assert report["mended"] <= 2
    assert flags.mean() < 0.003


@pytest.mark.parametrize(("over_voice_db", "down_db"), [(0.0, 8), (8.0, 15), (14.0, 20)])
def test_thumps_go_down_and_the_voice_beside_them_stays(over_voice_db, down_db):
    """What is left of the softest lies under the voice's own fundamental at that place."""
    sound, gaps = take(VOICES[0])
    marked, places = sound.copy(), []
    for (a, _), freq_hz in zip(gaps, (35, 50, 70, 45, 60), strict=False):
        # Into the last words of a line.
        at, made = a - RATE, thump(0.12, freq_hz, -20 + over_voice_db)
        marked[0, at : at + len(made)] += made
        places.append((at, at + len(made)))
    out, report = run(marked, "plosive")
    low = butter(4, 150, fs=RATE, output="sos")
    left, planted = (sosfiltfilt(low, (s - sound)[0]) for s in (out, marked))
    for a, b in places:
        span = slice(a - 2000, b + 4000)
        assert level_db(left[span]) < level_db(planted[span]) - down_db
    flags = inside(report, sound.shape[1])
    assert np.array_equal(out[0, ~flags], marked[0, ~flags])
    # From 200 Hz on nothing is touched, inside of events either.
    high = butter(8, 300, "highpass", fs=RATE, output="sos")
    assert level_db(sosfiltfilt(high, (out - marked)[0])) < -75


def test_breaths_between_phrases_go_down_by_the_depth_and_not_below_the_room():
    sound, gaps = take(VOICES[0])
    marked, places = sound.copy(), []
    for number, (_, b) in enumerate(gaps[:-1]):
        made = breath(0.35, -38.0 - 2 * (number % 3), number)
        at = b - len(made) - round(0.1 * RATE)
        marked[0, at : at + len(made)] += made
        places.append((at, at + len(made)))
    out, report = run(marked, "breath", depth_db=10.0)
    for a, b in places:
        middle = slice(a + 6000, b - 4800)
        assert level_db(out[0, middle]) == pytest.approx(level_db(marked[0, middle]) - 10, abs=0.3)
    assert len(report["events"]) == len(places)
    flags = inside(report, sound.shape[1])
    assert np.array_equal(out[0, ~flags], marked[0, ~flags])
    deep, _ = run(marked, "breath", depth_db=40.0)
    room_dbfs = level_db(sound[0, gaps[0][0] + 4800 : gaps[0][0] + 9600])
    for a, b in places:
        assert level_db(deep[0, a + 6000 : b - 4800]) > room_dbfs - 3


def test_what_a_person_refuses_stays_and_what_they_add_is_mended():
    sound, gaps = take(VOICES[0])
    marked = sound.copy()
    a, b = ((x + y) // 2 for x, y in gaps[:2])
    made = click(48, 4000, 0.05)
    for at in (a, b):
        marked[0, at : at + 48] += made
    quiet = b + 9600
    marked[0, quiet : quiet + 48] += 0.002 * np.hanning(48).astype(np.float32)
    refused = {"type": "click", "start_s": a / RATE - 0.01, "end_s": a / RATE + 0.02}
    added = {"type": "click", "start_s": quiet / RATE - 0.001, "end_s": quiet / RATE + 0.002}
    other = {**refused, "type": "breath"}
    edits = FileEdits(repairs={"refused": [refused], "added": [added, other]})
    out, report = run(marked, "click", edits)
    assert report["refused"] == 1
    assert np.array_equal(out[0, a - 400 : a + 400], marked[0, a - 400 : a + 400])
    for at in (b, quiet):
        assert not np.array_equal(out[0, at : at + 48], marked[0, at : at + 48])
    # Cuts before it move a mark along.
    moved = FileEdits(cuts=[{"start_s": 0.5, "end_s": 1.5}], repairs=edits.repairs)
    shorter, report = run(marked, "click", moved)
    assert report["refused"] == 1
    assert np.array_equal(shorter[0, a - RATE : a - RATE + 48], marked[0, a : a + 48])


@pytest.mark.parametrize("kind", ["click", "plosive", "breath", "room"])
def test_a_passage_equals_the_run_and_so_do_blocks_of_any_size(kind):
    sound, gaps = take(VOICES[1], 16.0)
    for a, b in gaps:
        middle = (a + b) // 2
        for made in (click(60, 4000, 0.05), thump(0.1, 40, -18), breath(0.3, -40, 3)):
            sound[0, middle : middle + len(made)] += made.astype(np.float32)
    source, chain = ArraySource(sound, RATE), chain_from_json([{"type": kind}])
    out, odd = [], []
    facts = {0: run_chain(source, chain, out.append).points[0].facts}
    run_chain(source, chain, odd.append, block_samples=7001)
    whole = joined(out, 1)
    assert np.array_equal(whole, joined(odd, 1))
    span = Span(7.0, 11.0)
    first, last = span.samples(RATE)
    heard = render_passage(source, chain, facts, span).after
    assert level_db(heard - whole[:, first:last]) < level_db(heard) - 60


def test_a_refusal_is_counted_once_wherever_pieces_end():
    sound = noise(-70, 4, RATE)
    places = range(RATE // 4, 3 * RATE, RATE // 4)
    for at in places:
        sound[0, at : at + 24] += click(24, 4000, 0.05).astype(np.float32)
    everything = {"refused": [{"type": "click", "start_s": 0, "end_s": 4}], "added": []}
    out, report = run(sound, "click", FileEdits(repairs=everything))
    assert (report["refused"], report["mended"]) == (len(places), 0)
    assert np.array_equal(out, sound)


def test_nobody_speaks_and_nothing_is_looked_for():
    for kind in ("plosive", "breath"):
        out, report = run(noise(-60, 3, RATE), kind)
        assert report["note"] == "left as it is: nobody speaks"
        assert np.array_equal(out, noise(-60, 3, RATE))


@pytest.mark.parametrize(
    ("value", "words"),
    [
        ([], "is no object with refused and added"),
        ({"kept": []}, "is no object with refused and added"),
        ({"refused": "all"}, "refused is a list"),
        ({"refused": [{"type": "click"}]}, "refused.0 is no object with type, start_s and end_s"),
        ({"added": [{"type": 3, "start_s": 0, "end_s": 1}]}, "a type of step is wanted"),
        ({"added": [{"type": "click", "start_s": 2, "end_s": 1}]}, "from 2 to 1 s"),
        ({"added": [{"type": "click", "start_s": 0, "end_s": 99}]}, "ends at 99 s"),
        ({"added": [{"type": "click", "start_s": True, "end_s": 2}]}, "from True to 2 s"),
    ],
)
def test_marks_that_cannot_be(value, words):
    with pytest.raises(BadInput, match=words):
        checked_repairs(value, 10.0)


def test_no_mark_is_none():
    assert checked_repairs(None, 10.0) is None
    assert checked_repairs({"refused": [], "added": []}, 10.0) is None
