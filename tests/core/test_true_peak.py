"""True peak against EBU Tech 3341 and an independent interpolation."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import signal

from tests.made_sound import RATE, noise, sine, spoken
from zesty_core.dsp.extremes import extremes, largest_bend, largest_magnitude
from zesty_core.dsp.oversampling import (
    LEFT,
    TAPS,
    extremes_between,
    may_pass,
    oversampling,
    peaks_between,
    phases,
    reach,
)
from zesty_core.measures.true_peak import TruePeakMeter


def true_peak_db(sound, rate=RATE, block=9_973):
    meter = TruePeakMeter(rate, len(sound))
    for start in range(0, sound.shape[1], block):
        meter.push(np.ascontiguousarray(sound[:, start : start + block]))
    meter.finish()
    return 20 * np.log10(max(meter.high.max(), -meter.low.min()))


# EBU Tech 3341, cases 15 to 19: tones at -6 dBFS (case 19: +3) between samples, +0.2/-0.4 dB.
@pytest.mark.parametrize(
    ("case", "divisor", "phase_deg", "level_db"),
    [(15, 4, 0, -6), (16, 4, 45, -6), (17, 6, 60, -6), (18, 8, 67.5, -6), (19, 4, 45, 3)],
)
def test_tones_ebu_3341(case, divisor, phase_deg, level_db):
    sound = sine(level_db, 1, RATE / divisor, phase_deg=phase_deg)
    fade = np.minimum(1.0, np.arange(sound.shape[1]) / 2000).astype(np.float32)
    assert -0.4 <= true_peak_db(sound * fade * fade[::-1]) - level_db <= 0.2


@pytest.mark.parametrize("sound", [noise(-20, 1), spoken(3), noise(-30, 1, seed=5, channels=2)])
def test_agrees_with_sixteenfold_interpolation(sound):
    dense = signal.resample_poly(sound.astype(float), 16, 1, axis=1, window=("kaiser", 12.0))
    expected = 20 * np.log10(np.abs(dense).max())
    assert true_peak_db(sound) == pytest.approx(expected, abs=0.15)


@pytest.mark.parametrize("block", [1, 7, 64, 1000, 48_000])
def test_blocks_do_not_matter(block):
    sound = noise(-20, 0.05)
    assert true_peak_db(sound, block=block) == true_peak_db(sound)


def test_never_below_the_sample_peak():
    sound = np.zeros((1, 500), np.float32)
    sound[0, -1] = 0.5
    assert true_peak_db(sound) >= 20 * np.log10(0.5) - 1e-6


def test_peaks_between_samples_ebu_3341_cases_20_to_23():
    """One cycle of a tone of rate/6 at full scale among cycles at half of it, made at four times the
    rate and taken down with each of the four offsets (construction from memory): +0.2/-0.4 dB."""
    t = np.arange(4 * RATE) / (4 * RATE)
    cycle = 6 * 4
    size = np.full(len(t), 0.5)
    size[len(t) // 2 : len(t) // 2 + cycle] = 1.0
    size *= np.minimum(1.0, np.minimum(t, t[::-1]) / 0.05)
    low_pass = signal.firwin(1025, 0.9 * RATE / 2, fs=4 * RATE)
    dense = np.convolve(size * np.sin(2 * np.pi * RATE / 6 * t), low_pass, "same")
    dense /= np.abs(signal.resample_poly(dense, 8, 1)).max()
    for offset in range(4):
        taken = dense[offset::4].astype(np.float32)[None]
        assert -0.4 <= true_peak_db(taken) <= 0.2, f"case {20 + offset}"


@pytest.mark.parametrize("size", [1, 7, 64, 1000])
def test_extremes_are_those_of_the_numbers(size):
    rng = np.random.default_rng(size)
    for x in (
        rng.standard_normal(size),
        -np.abs(rng.standard_normal(size)),
        np.zeros(size),
        np.full(size, -0.0),
        rng.standard_normal(size) * 1e-39,
        rng.standard_normal(size) * 1e30,
    ):
        samples = x.astype(np.float32)
        assert extremes(samples) == (samples.min(), samples.max())
        assert largest_magnitude(samples) == np.abs(samples).max()


def alternating(rate):
    """As far between its samples as any sound can go: each sample pulls its way."""
    taps = phases(oversampling(rate))
    pulling = np.tile(np.sign(taps[len(taps) // 2])[::-1], 8).astype(np.float32)
    return 0.5 * pulling[None]


@pytest.mark.parametrize("rate", [8_000, 48_000, 192_000])
@pytest.mark.parametrize(
    "make",
    [alternating, lambda r: spoken(1), lambda r: noise(-12, 0.3), lambda r: sine(-1, 0.2, 9e3)],
)
def test_passing_over_what_cannot_matter_changes_nothing(rate, make):
    x = np.ascontiguousarray(make(rate)[0])
    taps, far = phases(oversampling(rate)), reach(oversampling(rate))
    own = x[LEFT : LEFT + len(x) - TAPS + 1]
    points = np.stack([own, *(np.correlate(x, row, "valid") for row in taps)])
    low, high, *_ = extremes_between(x, taps, far, 0.0, 0.0)
    assert (low, high) == pytest.approx((min(points.min(), 0), max(points.max(), 0)), abs=2e-6)
    floor = 0.9 * float(np.abs(points).max())
    found = np.empty(points.shape[1], np.float32)
    peaks_between(x, taps, far, floor, found)
    exact = np.abs(points).max(axis=0)
    assert found[exact > floor] == pytest.approx(exact[exact > floor], abs=2e-6)
    assert (found[exact <= floor] <= floor + 2e-6).all()
    assert may_pass(x, far, floor)
    assert not may_pass(x, far, 4.0 * floor)


def test_largest_second_difference():
    x = noise(-20, 0.01)[0]
    assert largest_bend(x) == pytest.approx(np.abs(np.diff(x.astype(float), 2)).max(), rel=1e-6)
