"""Cuts, inserts, fades and markers: what is heard, and when."""

import numpy as np
import pytest

from zesty_core.audio.edit_times import EditTimes
from zesty_core.audio.edits import FileEdits, checked_inserts, edit_times, edited, samples_left
from zesty_core.audio.fades import FadedSource
from zesty_core.audio.markers import chapters_of, checked_markers
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import ArraySource

RATE = 8_000
RNG = np.random.default_rng(3)
ROOM = RoomTone(
    samples=(0.01 * RNG.standard_normal((1, RATE))).astype(np.float32), sample_rate_hz=RATE
)


def sound(seconds=10.0):
    return ArraySource(
        (0.3 * RNG.standard_normal((1, round(seconds * RATE)))).astype(np.float32), RATE
    )


def insert(at_s, length_s, kind="silence"):
    return {"at_s": at_s, "length_s": length_s, "kind": kind}


CUT = {"start_s": 3.0, "end_s": 5.0}


@pytest.mark.parametrize(
    ("original_s", "heard_s"),
    [
        (0.0, 0.5),
        (2.0, 2.5),
        (3.0, 3.5),
        (4.0, 3.5),
        (5.0, 3.5),
        (6.0, 4.5),
        (6.5, 6.0),
        (9.0, 8.5),
    ],
)
def test_times_there(original_s, heard_s):
    times = EditTimes([CUT], [insert(6.0, 1.0)], 0.5)
    assert times.edited(original_s) == pytest.approx(heard_s)


@pytest.mark.parametrize(
    ("heard_s", "original_s"),
    [
        (0.2, 0.0),
        (2.5, 2.0),
        (3.5, 5.0),
        (4.4, 5.9),
        (4.6, 6.0),
        (5.4, 6.0),
        (5.6, 6.1),
        (8.5, 9.0),
    ],
)
def test_times_back(heard_s, original_s):
    times = EditTimes([CUT], [insert(6.0, 1.0)], 0.5)
    assert times.original(heard_s) == pytest.approx(original_s)


def test_an_insert_inside_a_cut_goes_with_it_and_at_its_edge_stays():
    times = EditTimes([CUT], [insert(4.0, 1.0), insert(5.0, 2.0)])
    assert [i["at_s"] for i in times.active_inserts] == [5.0]
    assert times.edited(7.0) == pytest.approx(7.0)


@pytest.mark.parametrize("kind", ["silence", "room_tone"])
@pytest.mark.parametrize("cuts", [[], [CUT]])
def test_an_insert_lies_where_the_times_say_and_the_rest_is_the_recording(kind, cuts):
    file = sound()
    edits = FileEdits(cuts=cuts, inserts=[insert(6.0, 1.5, kind)])
    heard = edited(file, edits, ROOM)
    whole = heard.read(0, heard.info.length_samples)
    assert heard.info.length_samples == samples_left(file.info.length_samples, RATE, edits)
    at = round(edit_times(edits).edited(6.0) * RATE)
    put_in = whole[:, at : at + round(1.5 * RATE)]
    level = float(np.sqrt(np.mean(put_in**2)))
    assert level == (0.0 if kind == "silence" else pytest.approx(0.01, rel=0.1))
    join = round(0.01 * RATE)
    behind = whole[:, at + put_in.shape[1] + join :]
    assert np.array_equal(behind, file.read(round(6.0 * RATE) + join, file.info.length_samples))
    blocks = np.concatenate(list(heard.blocks(777)), axis=1)
    assert np.array_equal(blocks, whole)


def test_inserts_at_both_ends_stay_inside_of_what_is_added_there():
    edits = FileEdits(pad_start_s=1.0, pad_end_s=1.0, inserts=[insert(0.0, 0.5), insert(10.0, 0.5)])
    heard = edited(sound(), edits, ROOM)
    whole = heard.read(0, heard.info.length_samples)[0]
    assert len(whole) == 13 * RATE
    assert np.any(whole[:RATE])
    assert not np.any(whole[RATE : round(1.5 * RATE)])
    assert not np.any(whole[-round(1.5 * RATE) : -RATE])
    assert np.any(whole[-RATE:])


def test_fades_are_half_a_raised_cosine_and_leave_the_middle_bit_exact():
    file = ArraySource(np.ones((1, 1000), np.float32), RATE)
    faded = FadedSource(file, 100, 200)
    whole = faded.read(0, 1000)[0]
    assert whole[50] == pytest.approx(0.5, abs=0.01)
    assert whole[-100] == pytest.approx(0.5, abs=0.01)
    assert np.array_equal(whole[100:800], np.ones(700, np.float32))
    assert whole[0] < 0.001
    assert whole[-1] < 0.001
    assert np.all(np.diff(whole[:100]) > 0)
    assert np.array_equal(np.concatenate(list(faded.blocks(77)), axis=1)[0], whole)


def test_fades_longer_than_the_sound_share_it():
    whole = FadedSource(ArraySource(np.ones((1, 100), np.float32), RATE), 300, 100).read(0, 100)
    assert int(np.argmax(whole)) == pytest.approx(75, abs=2)


@pytest.mark.parametrize(
    ("inserts", "words"),
    [
        ([insert(11.0, 1.0)], "within 0 to 10"),
        ([insert(1.0, 0.0)], "up to 30 s, got 0"),
        ([insert(1.0, 31.0)], "up to 30 s, got 31"),
        ([insert(0.01 * i, 1.0) for i in range(201)], "at most 200"),
    ],
)
def test_inserts_that_do_not_fit(inserts, words):
    with pytest.raises(BadInput, match=words):
        checked_inserts(inserts, 10.0)


@pytest.mark.parametrize(
    ("marker", "words"),
    [
        ({"at_s": 10.5, "name": "x"}, "within 0 to 10"),
        ({"at_s": 1.0, "name": "  "}, "1 to 120 letters"),
        ({"at_s": 1.0, "name": "a\nb"}, "one line"),
        ({"at_s": 1.0, "name": "a" * 121}, "1 to 120 letters"),
    ],
)
def test_markers_that_do_not_fit(marker, words):
    with pytest.raises(BadInput, match=words):
        checked_markers([marker], 10.0)


def marker(at_s, name):
    return {"at_s": at_s, "name": name}


@pytest.mark.parametrize(
    ("markers", "chapters"),
    [
        ([], []),
        ([marker(0.0, "one"), marker(6.0, "two")], [(0.0, 4.0, "one"), (4.0, 8.0, "two")]),
        ([marker(6.0, "two")], [(0.0, 4.0, "Tides"), (4.0, 8.0, "two")]),
        # Both lie in the cut: the later one names what follows.
        ([marker(3.5, "gone"), marker(4.5, "next")], [(0.0, 3.0, "Tides"), (3.0, 8.0, "next")]),
        ([marker(9.9, "the end")], []),
    ],
)
def test_chapters_run_from_marker_to_marker(markers, chapters):
    made = chapters_of(markers, EditTimes([CUT]), 8.0, "Tides")
    assert [(c.start_s, c.end_s, c.name) for c in made] == chapters
