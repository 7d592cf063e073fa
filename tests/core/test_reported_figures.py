"""Every figure a step reports is what its label says, measured on the sound itself."""

from __future__ import annotations

import numpy as np
import pytest

from tests.made_sound import RATE, noise, spoken
from zesty_core.chain.recipe import chain_from_json
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.signal import ArraySource

WORD_S, GAP_S, TURNS = 1.5, 1.5, 4


def words_and_gaps():
    """Words over a quiet room, and masks of their middles and of the middles of the gaps."""
    word, gap = round(WORD_S * RATE), round(GAP_S * RATE)
    silence = np.zeros((1, gap), np.float32)
    voice = np.concatenate([0.3 * spoken(WORD_S), silence] * TURNS, axis=1)
    place = np.arange(voice.shape[1]) % (word + gap) / RATE
    in_words = (place > 0.1) & (place < WORD_S - 0.1)
    in_gaps = (place > WORD_S + 0.6) & (place < WORD_S + GAP_S - 0.2)
    return (voice + noise(-62, voice.shape[1] / RATE)).astype(np.float32), in_words, in_gaps


def run(sound, kind, **params):
    made = []
    chain = chain_from_json([{"type": kind, "params": params}])
    result = run_chain(ArraySource(sound, RATE), chain, made.append)
    return np.concatenate(made, axis=1), result.points[0].report


def down_db(before, after, where):
    return 10 * np.log10(np.sum(before[0, where] ** 2) / np.sum(after[0, where] ** 2))


@pytest.mark.parametrize("floor_db", [-12, -30])
def test_a_gate_reports_what_gaps_go_down_by_while_words_pass(floor_db):
    sound, in_words, in_gaps = words_and_gaps()
    settings = {"follow_voice": False, "threshold_db": -45, "floor_db": floor_db}
    out, report = run(sound, "gate", mode="gate", **settings)
    assert down_db(sound, out, in_words) == pytest.approx(0, abs=0.05)
    assert report["typical_reduction_db"] == pytest.approx(down_db(sound, out, in_gaps), abs=0.2)
    assert report["max_reduction_db"] == pytest.approx(-floor_db, abs=0.1)
    shut = np.mean(np.abs(out[0]) < np.abs(sound[0]) * 10 ** (-0.5 / 20))
    assert report["active_share"] == pytest.approx(shut, abs=0.03)
    hops = sound.shape[1] // 240 * 240
    before, after = (np.sum(x[0, :hops].reshape(-1, 240) ** 2, axis=1) for x in (sound, out))
    is_open = after > 0.98 * before
    assert report["openings"] == np.sum(is_open[1:] & ~is_open[:-1]) + is_open[0]


def test_a_compressor_reports_the_median_of_what_it_takes_while_it_works():
    """A tone 12 dB over the threshold for 40 % of the time, 6 dB over it for 20 %, else under it."""
    levels_db = np.repeat([-8.0, -8.0, -14.0, -40.0, -40.0], RATE)
    tone = np.sin(2 * np.pi * 1000 * np.arange(levels_db.size) / RATE) * 10 ** (levels_db / 20)
    sound = tone[None].astype(np.float32)
    out, report = run(
        sound, "compressor", threshold_db=-20, ratio=3, knee_db=0, makeup_db=0.0, attack_ms=1
    )
    loud = (np.arange(levels_db.size) > RATE) & (levels_db == -8)
    assert report["max_reduction_db"] == pytest.approx(down_db(sound, out, loud), abs=0.2)
    assert report["max_reduction_db"] == pytest.approx(12 * (1 - 1 / 3), abs=0.3)
    assert report["typical_reduction_db"] == pytest.approx(8.0, abs=0.3)
    assert report["active_share"] == pytest.approx(0.6, abs=0.05)


def test_a_limiter_reports_what_comes_off_its_highest_peak():
    sound = np.float32(0.9) * np.sin(2 * np.pi * 400 * np.arange(3 * RATE) / RATE)[None]
    out, report = run(sound.astype(np.float32), "limiter", ceiling_dbtp=-6)
    taken = 20 * np.log10(np.abs(sound).max() / np.abs(out).max())
    assert report["max_reduction_db"] == pytest.approx(taken, abs=0.1)
    assert report["active_share"] == pytest.approx(1.0, abs=0.05)


@pytest.mark.parametrize(
    ("kind", "params"),
    [
        ("normalize", {"target_db": -9}),
        ("loudness", {"target": -30, "ceiling_dbtp": -1}),
        ("gain", {"gain_db": -4}),
    ],
)
def test_a_gain_is_the_gain(kind, params):
    sound, *_ = words_and_gaps()
    out, report = run(sound, kind, **params)
    everything = np.ones(sound.shape[1], bool)
    assert report["gain_db"] == pytest.approx(-down_db(sound, out, everything), abs=0.02)


def test_noise_reduction_reports_how_far_the_room_goes_down():
    sound, _, in_gaps = words_and_gaps()
    out, report = run(sound, "noise_reduction", depth_db=15)
    assert report["room_tone_change_db"] == pytest.approx(-down_db(sound, out, in_gaps), abs=1.0)


def test_saturation_reports_what_the_highest_peak_is_rounded_by():
    sound, *_ = words_and_gaps()
    out, report = run(sound, "saturation", drive_db=12)
    lost = 20 * np.log10(np.abs(sound).max() / np.abs(out).max()) + report["makeup_db"]
    assert report["max_reduction_db"] == pytest.approx(lost, abs=1.0)


def test_ambience_reports_how_far_the_room_lies_under_the_voice():
    sound, *_ = words_and_gaps()
    out, report = run(sound, "ambience", mix=0.1)
    dry, wet = run(sound, "ambience", mix=0.0)[0], out
    room = wet - dry
    under = 10 * np.log10(np.sum(dry**2) / np.sum(room**2))
    assert report["below_voice_db"] == pytest.approx(under, abs=1.5)
