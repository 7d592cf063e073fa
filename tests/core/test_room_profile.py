"""What a sample of room tone holds, how a room changed, and room tone woven longer than it was."""

from __future__ import annotations

import json
import re

import numpy as np
import pytest
import soundfile
from scipy import signal

from tests.made_sound import RATE, RECORDINGS, ROOT, level_db, noise, sine, spoken
from zesty_core.audio.padding import Fill, FilledSource, room_fill
from zesty_core.audio.reader import AudioFile
from zesty_core.foundation.signal import ArraySource
from zesty_core.measures.room_profile import RoomProfile, changes, profile_of
from zesty_core.measures.stream import measure

NAMES = sorted(p.stem for p in RECORDINGS.glob("*.wav"))
VOICES = ROOT / "src" / "zesty_demo" / "voices"
ROOM = noise(-60, 2)


def clicked(*at_s):
    """The room with clicks of the mouth: bursts of under a millisecond around 3 kHz."""
    sound, click = ROOM.copy(), 0.06 * np.hanning(40) * np.sin(np.arange(40) * 0.4)
    for t in at_s:
        sound[:, int(t * RATE) : int(t * RATE) + 40] += click.astype(np.float32)
    return sound


@pytest.mark.parametrize(
    ("sound", "told"),
    [
        (ROOM, []),
        (ROOM + sine(-50, 2, 50), []),
        (signal.lfilter([0.05], [1, -0.95], ROOM).astype(np.float32), []),
        (ROOM[:, : RATE // 10], ["is only 0.10 s long"]),
        (np.zeros((1, RATE), np.float32), ["is digital silence"]),
        (np.full((1, RATE), 0.1, np.float32), ["is digital silence"]),
        (ROOM + spoken(2), ["holds speech or another noise"]),
        (clicked(0.7), ["holds 1 click"]),
        (clicked(0.4, 1.6), ["holds 2 clicks"]),
    ],
)
def test_what_speaks_against_a_sample_is_told(sound, told):
    found = profile_of(sound, RATE).warnings
    assert len(found) == len(told), found
    assert all(one.startswith(start) for one, start in zip(found, told, strict=True))


def test_level_bands_and_tones_are_those_of_the_sound():
    profile = profile_of(ROOM + sine(-50, 2, 120) + sine(-55, 2, 1000), RATE)
    assert profile.tones_hz == (120, 1000)
    assert profile.level_dbfs == pytest.approx(
        10 * np.log10(1e-6 + 0.5 * (10**-5 + 10**-5.5)), abs=0.1
    )
    band = min(profile.bands, key=lambda b: abs(b[0] - 4000))
    # IEC 61260-1: a third-octave band of white noise holds its share of the bandwidth.
    assert band[1] == pytest.approx(-60 + 10 * np.log10(band[0] * 0.2316 / 24_000), abs=0.7)
    assert RoomProfile.from_json(json.loads(json.dumps(profile.as_json()))).tones_hz == (120, 1000)


BASE = profile_of(ROOM, RATE)


@pytest.mark.parametrize(
    ("newer", "told"),
    [
        (noise(-60, 2, seed=3), []),
        (noise(-56, 2, seed=3), ["4 dB noisier"]),
        (noise(-63, 1, 16_000, seed=3), ["3 dB quieter"]),
        (noise(-60, 2, seed=3) + sine(-68, 2, 2_000), ["a new tone at 2000 Hz"]),
        (noise(-60, 2, seed=3) + sine(-50, 2, 120), ["8 dB noisier", "a new tone at 120 Hz"]),
    ],
)
def test_a_rooms_samples_are_compared_in_plain_words(newer, told):
    rate = 16_000 if newer.shape[1] == 16_000 else RATE
    found = changes(BASE, profile_of(newer, rate))
    assert found[: len(told)] == told
    assert all("around" in one for one in found[len(told) :])
    assert told or not found


def test_digital_silence_is_not_compared():
    assert changes(BASE, profile_of(np.zeros((1, RATE), np.float32), RATE)) == []


def clean_voice(name, truth, span):
    """What was really said in a span, from before room and faults were added."""
    voice, rate = soundfile.read(VOICES / f"{re.sub('-[0-9]+', '', name)}.flac")
    first_s = json.loads((VOICES / f"{re.sub('-[0-9]+', '', name)}.json").read_text())["lines"][0]
    later_s = truth["lines"][0][0] - first_s["start_s"]
    start, stop = (max(0, round((t - later_s) * rate)) for t in (span.start_s, span.end_s))
    return voice[start:stop]


@pytest.mark.parametrize("name", NAMES)
def test_candidates_lie_where_nobody_speaks_and_the_best_comes_first(name):
    source = AudioFile(RECORDINGS / f"{name}.wav")
    truth = json.loads((RECORDINGS / f"{name}.truth.json").read_text())
    found = measure(source.blocks(), source.info).room_tones
    assert 1 <= len(found) <= 5
    assert 0 <= found[0].span.start_s < found[0].span.end_s <= truth["lines"][0][0] + 0.1
    for one in found:
        clean = clean_voice(name, truth, one.span)
        assert clean.size == 0 or level_db(clean) < one.level_dbfs - 10
        start, stop = one.span.samples(source.info.sample_rate_hz)
        assert profile_of(source.read(start, stop), source.info.sample_rate_hz).warnings == ()


@pytest.mark.parametrize("channels", [1, 2])
def test_woven_room_tone_sounds_like_the_sample_and_is_always_the_same(channels):
    room = noise(-60, 1.5, channels=channels) + sine(-55, 1.5, 100, channels=channels)
    woven = room_fill(room, RATE, 10 * RATE)
    assert woven.shape == (channels, 10 * RATE)
    assert np.array_equal(woven, room_fill(room, RATE, 10 * RATE))
    assert level_db(woven) == pytest.approx(level_db(room), abs=0.5)
    # No swelling or sagging where pieces join.
    tenths = woven[0].reshape(100, -1)
    assert max(level_db(t) for t in tenths) - min(level_db(t) for t in tenths) < 2.5
    _freqs, new = signal.welch(woven[0], RATE, nperseg=4096)
    _, old = signal.welch(room[0], RATE, nperseg=4096)
    smooth = np.ones(25) / 25
    apart = 10 * np.log10(np.convolve(new, smooth, "valid") / np.convolve(old, smooth, "valid"))
    assert np.abs(apart).max() < 1.5


def test_a_sample_shorter_than_a_piece_and_a_fill_shorter_than_the_sample():
    short = noise(-60, 0.06)
    assert level_db(room_fill(short, RATE, RATE)) == pytest.approx(-60, abs=1)
    assert np.array_equal(room_fill(ROOM, RATE, 100), ROOM[:, :100])


@pytest.mark.parametrize(("before_s", "after_s"), [(1, 2), (0, 1), (0.5, 0), (0, 0), (0.005, 1)])
def test_a_padded_recording_is_its_parts_joined(before_s, after_s):
    own = noise(-20, 1, seed=9)
    before, after = (room_fill(ROOM, RATE, round(s * RATE)) for s in (before_s, after_s))
    source = FilledSource(ArraySource(own, RATE), [Fill(0, before), Fill(RATE, after)])
    whole = source.read(0, source.info.length_samples)
    assert whole.shape[1] == before.shape[1] + RATE + after.shape[1]
    blocks = list(source.blocks(777))
    assert np.array_equal(np.concatenate(blocks, axis=1), whole)
    start = before.shape[1]
    join = round(0.010 * RATE)
    assert np.array_equal(whole[:, :start], before)
    assert np.array_equal(whole[:, start + RATE :], after)
    inner = slice(join if before_s else 0, RATE - (join if after_s else 0))
    assert np.array_equal(whole[:, start : start + RATE][:, inner], own[:, inner])
