"""Loudness against the cases of EBU Tech 3341 (v4) that are made of tones, and a reference library."""

from __future__ import annotations

import numpy as np
import pyloudnorm
import pytest

from tests.made_sound import RATE, noise, sine, spoken
from zesty_core.measures.loudness import LoudnessMeter, k_weighting


def meter_of(sound, rate=RATE, block=10_007):
    meter = LoudnessMeter(rate, len(sound))
    for start in range(0, sound.shape[1], block):
        meter.push(sound[:, start : start + block])
    return meter


def parts(*levels_and_times):
    return np.concatenate([sine(db, s, channels=2) for db, s in levels_and_times], axis=1)


# EBU Tech 3341, table 1: (case, signal of 1 kHz stereo tones, expected LUFS), tolerance 0.1 LU.
CASES = [
    (1, [(-23, 20)], -23.0),
    (2, [(-33, 20)], -33.0),
    (3, [(-36, 10), (-23, 60), (-36, 10)], -23.0),
    (4, [(-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)], -23.0),
    (5, [(-26, 20), (-20, 20.1), (-26, 20)], -23.0),
]


@pytest.mark.parametrize(("case", "signal", "expected"), CASES)
def test_integrated_ebu_3341(case, signal, expected):
    assert meter_of(parts(*signal)).integrated_lufs() == pytest.approx(expected, abs=0.1)


@pytest.mark.parametrize("rate", [8_000, 16_000, 22_050, 44_100, 48_000, 96_000, 192_000])
def test_a_tone_measures_the_same_at_every_rate(rate):
    sound = sine(-23.0, 10, rate=rate, channels=2)
    assert meter_of(sound, rate).integrated_lufs() == pytest.approx(-23.0, abs=0.1)


def test_k_weighting_at_48_khz_is_the_table_of_bs_1770():
    """ITU-R BS.1770-5 Annex 1, tables 1 and 2."""
    shelf = [
        1.53512485958697,
        -2.69169618940638,
        1.19839281085285,
        -1.69065929318241,
        0.73248077421585,
    ]
    high_pass = [1.0, -2.0, 1.0, -1.99004745483398, 0.99007225036621]
    assert k_weighting(48_000) == pytest.approx(np.array([shelf, high_pass]), abs=1e-6)


@pytest.mark.parametrize("sound", [spoken(12, channels=2), noise(-30, 6), spoken(9, seed=4)])
def test_integrated_agrees_with_reference_library(sound):
    expected = pyloudnorm.Meter(RATE).integrated_loudness(sound.T.astype(float))
    assert meter_of(sound).integrated_lufs() == pytest.approx(expected, abs=0.1)


def silence(duration_s):
    return np.zeros((2, round(duration_s * RATE)), np.float32)


# EBU Tech 3341, table 1, cases 9 and 12: patterns whose every window holds the same energy.
@pytest.mark.parametrize(
    ("case", "pattern", "times", "maximum"),
    [
        (9, [(-20, 1.34), (-30, 1.66)], 5, "short_term_max_lufs"),
        (12, [(-20, 0.18), (-30, 0.22)], 25, "momentary_max_lufs"),
    ],
)
def test_patterns_ebu_3341(case, pattern, times, maximum):
    assert getattr(meter_of(parts(*pattern * times)), maximum)() == pytest.approx(-23.0, abs=0.1)


# Cases 10 and 13 (values from memory): a burst as long as the window, 20 times with a later start.
@pytest.mark.parametrize(
    ("case", "step_s", "burst_s", "maximum"),
    [(10, 0.15, 3.0, "short_term_max_lufs"), (13, 0.02, 0.4, "momentary_max_lufs")],
)
def test_bursts_at_any_offset_ebu_3341(case, step_s, burst_s, maximum):
    for i in range(20):
        burst = sine(-23, burst_s, channels=2)
        sound = np.concatenate([silence(i * step_s), burst, silence(1)], axis=1)
        assert getattr(meter_of(sound), maximum)() == pytest.approx(-23.0, abs=0.1)


# Cases 11 and 14: each burst is a LU louder than the one before, all in one stream.
@pytest.mark.parametrize(
    ("case", "step_s", "burst_s", "maximum"),
    [(11, 0.15, 3.0, "short_term_max_lufs"), (14, 0.02, 0.4, "momentary_max_lufs")],
)
def test_rising_bursts_ebu_3341(case, step_s, burst_s, maximum):
    meter = LoudnessMeter(RATE, 2)
    for i in range(20):
        meter.push(silence(i * step_s))
        meter.push(sine(-38 + i, burst_s, channels=2))
        meter.push(silence(3))
        assert getattr(meter, maximum)() == pytest.approx(-38.0 + i, abs=0.1)


# EBU Tech 3342, table 1, cases 1 to 4, tolerance 1 LU.
@pytest.mark.parametrize(
    ("signal", "expected"),
    [
        ([(-20, 20), (-30, 20)], 10.0),
        ([(-20, 20), (-15, 20)], 5.0),
        ([(-40, 20), (-20, 20)], 20.0),
        ([(-50, 20), (-35, 20), (-20, 20), (-35, 20), (-50, 20)], 15.0),
    ],
)
def test_loudness_range_ebu_3342(signal, expected):
    assert meter_of(parts(*signal)).loudness_range_lu() == pytest.approx(expected, abs=1.0)


@pytest.mark.parametrize("sound", [np.zeros((1, RATE), np.float32), sine(-20, 0.3), sine(-80, 5)])
def test_what_cannot_be_told_is_none(sound):
    assert meter_of(sound).integrated_lufs() is None
