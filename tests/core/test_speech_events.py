"""What happens when: phrases, thumps, noises between words; and the two sides of a recording."""

from __future__ import annotations

import numpy as np
import pytest

from tests.made_sound import RATE, level_db, noise, sine
from zesty_core.foundation.signal import ArraySource
from zesty_core.measures.sides import SidesMeter
from zesty_core.measures.speech_events import SpeechEventsMeter
from zesty_core.measures.stream import measure


def phrases(*levels_and_lengths, gap_s=0.6):
    """Tones as phrases with gaps between, over a quiet room; starts with a gap."""
    pieces = [np.zeros((1, round(gap_s * RATE)), np.float32)]
    for level, length in levels_and_lengths:
        pieces += [sine(level + 3.01, length, 300), pieces[0]]
    sound = np.concatenate(pieces, axis=1)
    return sound + noise(-75, sound.shape[1] / RATE)[:, : sound.shape[1]]


def moments_of(sound, rate=RATE, block=65_536):
    source = ArraySource(sound, rate)
    return measure(source.blocks(block), source.info).speech_events


@pytest.mark.parametrize(
    "levels",
    [[(-20, 2)], [(-20, 2), (-26, 1.5)], [(-20, 1), (-24, 1), (-18, 3)]],
)
def test_phrases_have_their_times_and_levels(levels):
    found = moments_of(phrases(*levels)).phrases
    assert len(found) == len(levels)
    at = 0.6
    for phrase, (level, length) in zip(found, levels, strict=True):
        assert phrase.start_s == pytest.approx(at, abs=0.05)
        assert phrase.end_s == pytest.approx(at + length, abs=0.05)
        assert phrase.level_dbfs == pytest.approx(level, abs=0.3)
        at += length + 0.6


def test_short_gaps_join_phrases_and_short_sounds_are_none():
    joined = np.concatenate([noise(-75, 1), phrases((-20, 1), (-20, 1), gap_s=0.2)], axis=1)
    assert len(moments_of(joined).phrases) == 1
    assert moments_of(phrases((-20, 0.4), (-20, 0.4))).phrases == ()


@pytest.mark.parametrize("rate", [8_000, 44_100, 48_000, 96_000])
def test_thumps_are_found_at_every_rate(rate):
    t = np.arange(round(6 * rate)) / rate
    voice = 0.1 * np.sin(2 * np.pi * 200 * t) * (np.sin(2 * np.pi * 0.4 * t) > 0)
    for at in (0.5, 3.0):
        since = np.maximum(t - at, 0)
        voice += 0.4 * np.sin(2 * np.pi * 60 * since) * np.exp(-since / 0.035) * (t >= at)
    sound = voice[None].astype(np.float32) + noise(-75, 6, rate)
    assert moments_of(sound, rate).thumps_s == pytest.approx((0.5, 3.0), abs=0.03)


@pytest.mark.parametrize("freq_hz", [110, 200])
def test_a_deep_voice_is_no_thump(freq_hz):
    t = np.arange(6 * RATE) / RATE
    voice = 0.2 * np.sin(2 * np.pi * freq_hz * t) * (np.sin(2 * np.pi * 0.4 * t) > 0)
    assert moments_of(voice[None].astype(np.float32) + noise(-75, 6)).thumps_s == ()


def test_noises_between_words_are_found_and_breaths_are_not():
    sound = phrases((-20, 2), (-20, 2), gap_s=2.0)
    for at_s in (0.7, 4.9):
        at = round(at_s * RATE)
        sound[0, at : at + 2000] += noise(-35, 1)[0, :2000]
    breath = round((6.0 - 0.35) * RATE)
    sound[0, breath : breath + 8000] += noise(-45, 1)[0, :8000]
    assert moments_of(sound).noises_s == pytest.approx((0.7, 4.9), abs=0.05)


def test_blocks_do_not_matter_and_a_gain_moves_the_levels_only():
    sound = phrases((-20, 2), (-30, 2))
    whole, pieces = moments_of(sound), moments_of(sound, block=777)
    assert whole == pieces
    shifted = whole.shifted(6.0)
    assert shifted.phrases[0].level_dbfs == pytest.approx(whole.phrases[0].level_dbfs + 6)
    assert shifted.phrases[0].start_s == whole.phrases[0].start_s


def test_without_a_voice_there_is_nothing():
    meter = SpeechEventsMeter(RATE, 1)
    assert meter.finish(None, -60.0).phrases == ()
    assert moments_of(np.zeros((1, RATE), np.float32)).noises_s == ()


@pytest.mark.parametrize("block", [1, 999, 48_000])
def test_sides_are_measured_alike_in_any_blocks(block):
    left, right = noise(-20, 1)[0], noise(-32, 1, seed=3)[0]
    meter = SidesMeter()
    for start in range(0, RATE if block > 1 else 500, block):
        stop = start + block if block > 1 else start + 1
        meter.push(np.stack([left[start:stop], right[start:stop]]))
    sides = meter.finish()
    count = RATE if block > 1 else 500
    assert sides.left_dbfs == pytest.approx(level_db(left[:count]), abs=1e-6)
    assert sides.right_dbfs == pytest.approx(level_db(right[:count]), abs=1e-6)
    difference = left[:count].astype(float) - right[:count]
    assert sides.difference_dbfs == pytest.approx(level_db(difference), abs=1e-6)


def test_equal_sides_have_no_difference():
    meter = SidesMeter()
    meter.push(np.repeat(noise(-20, 1), 2, axis=0))
    assert meter.finish().difference_dbfs is None
