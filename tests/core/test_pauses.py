"""Pauses brought to a length: only room goes, and both sides of a join run on into each other."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest

from tests.made_sound import RATE, level_db, noise
from zesty_core.audio.cuts import CutSource
from zesty_core.foundation.signal import ArraySource, Span
from zesty_core.measures.pauses import long_pauses

VOICE_DBFS, ROOM_DBFS = -20.0, -60.0
#: Speech from, to in seconds; the second word is short.
SPOKEN = [(0.6, 2.0), (3.5, 3.8), (6.0, 7.4), (7.8, 9.0), (12.0, 13.0)]
DURATION_S = 14.0


def recording(room_dbfs=ROOM_DBFS, breath=False):
    sound = noise(room_dbfs, DURATION_S, seed=4)
    t = np.arange(sound.shape[1]) / RATE
    for start_s, end_s in SPOKEN:
        inside = (t >= start_s) & (t < end_s)
        sound[0, inside] += 0.14 * np.sin(2 * np.pi * 150 * t[inside])
    if breath:
        inside = (t >= 11.3) & (t < 11.8)
        sound[0, inside] += noise(room_dbfs + 5, 0.5, seed=5)[0, : inside.sum()]
    return ArraySource(sound, RATE)


@pytest.mark.parametrize("longest_s", [0.3, 0.8, 1.2])
@pytest.mark.parametrize("room_dbfs", [-75.0, -60.0, -42.0])
def test_each_pause_comes_to_its_length_and_no_word_is_touched(longest_s, room_dbfs):
    source = recording(room_dbfs)
    found = long_pauses(source, longest_s, VOICE_DBFS, room_dbfs)
    gaps = [(b - a, a, b) for (_, a), (b, _) in pairwise(SPOKEN)]
    wanted = [(a, b) for length, a, b in gaps if length > longest_s + 0.05]
    assert [(p.span.start_s, p.span.end_s) for p in found] == [
        (pytest.approx(a, abs=0.02), pytest.approx(b, abs=0.02)) for a, b in wanted
    ]
    for pause in found:
        left_s = pause.span.duration_s - pause.cut.duration_s
        assert left_s == pytest.approx(longest_s, abs=0.03)
        # A quarter of what is kept, at least, stands at either side.
        assert pause.cut.start_s - pause.span.start_s >= 0.2 * longest_s
        assert pause.span.end_s - pause.cut.end_s >= 0.2 * longest_s - 0.015


def test_a_breath_is_kept_or_goes_as_a_whole():
    [*_, last] = long_pauses(recording(breath=True), 1.0, VOICE_DBFS, ROOM_DBFS)
    kept = last.cut.end_s <= 11.31
    assert kept or last.cut.end_s >= 11.79


def test_the_join_cannot_be_told_from_the_room_around_it():
    """The hum of the room runs on, and its level stays, within what a room does by itself."""
    t = np.arange(round(DURATION_S * RATE)) / RATE
    source = recording()
    hum = 10 ** (-50 / 20) * np.sqrt(2) * np.sin(2 * np.pi * 50 * t)
    humming = ArraySource(source.read(0, len(t)) + hum[None].astype(np.float32), RATE)
    pauses = long_pauses(humming, 0.5, VOICE_DBFS, -50.0)
    tight = CutSource(humming, [p.cut for p in pauses])
    at_s = pauses[0].cut.start_s
    around = tight.read(round((at_s - 0.05) * RATE), round((at_s + 0.05) * RATE))[0]
    levels = [level_db(around[i : i + 960]) for i in range(0, len(around) - 960, 240)]
    assert max(levels) - min(levels) < 1.5
    spectrum = np.abs(np.fft.rfft(around * np.hanning(len(around))))
    assert int(np.argmax(spectrum)) * RATE / len(around) == pytest.approx(50, abs=11)


def test_nothing_is_found_without_a_voice_and_in_what_is_not_to_be_touched():
    assert long_pauses(recording(), 0.5, None, ROOM_DBFS) == []
    put_in = [{"start_s": 4.0, "end_s": 5.0}]
    spans = [p.span for p in long_pauses(recording(), 0.5, VOICE_DBFS, ROOM_DBFS, put_in)]
    assert len(spans) == 2
    assert not any(span.start_s < 4.5 < span.end_s for span in spans)


def test_silence_between_words_is_a_pause_too():
    sound = np.zeros((1, 4 * RATE), np.float32)
    sound[0, RATE : 2 * RATE] = sound[0, 3 * RATE :] = 0.1
    sound[0, ::2] *= -1
    [pause] = long_pauses(ArraySource(sound, RATE), 0.4, VOICE_DBFS, None)
    assert pause.span == Span(pytest.approx(2.0, abs=0.01), pytest.approx(3.0, abs=0.01))
