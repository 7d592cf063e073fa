"""Parts of the noise reduction's gain against exact formulas."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.fft import dct
from scipy.special import exp1

from zesty_core.dsp.fast_powers import exp2_row, log2_row
from zesty_core.dsp.presence import NEIGHBOURHOODS, absence, caution
from zesty_core.dsp.voice_gain import voice_gain
from zesty_core.dsp.voice_model import voice_model

WINDOW, BINS = 1536, 769
HOP_S, BIN_HZ = 512 / 48_000, 48_000 / WINDOW
STEADY = np.ones((len(NEIGHBOURHOODS), BINS), np.float32)
AS_IT_IS = np.ones(BINS, np.float32)


def frames_of_noise(frames=400, seed=1):
    return np.random.default_rng(seed).exponential(1.0, (frames, BINS)).astype(np.float32)


def test_fast_logarithm_and_power_are_near_the_exact_ones():
    values = np.exp(np.random.default_rng(0).uniform(-40, 40, 20_000)).astype(np.float32)
    logs, powers = np.empty_like(values), np.empty_like(values)
    log2_row(values, logs)
    assert np.abs(logs - np.log2(values.astype(np.float64))).max() < 2e-5
    exp2_row(logs, powers)
    assert np.abs(powers / values.astype(np.float64) - 1).max() < 3e-5
    # Alone it is as exact as its numbers are; a gain of 0 dB is exactly one.
    near = np.linspace(-10, 10, 20_001, dtype=np.float32)
    found = np.empty_like(near)
    exp2_row(near, found)
    assert np.abs(found / np.exp2(near.astype(np.float64)) - 1).max() < 5e-7
    assert found[10_000] == 1.0


def test_the_model_of_a_steady_spectrum_is_that_spectrum():
    shape = 2.0 + np.cos(np.arange(BINS) / 20)
    snr = np.tile(1.0 + 10**shape, (200, 1)).astype(np.float32)
    model = voice_model(snr, HOP_S, BIN_HZ)
    assert model.shape == (100, BINS)
    assert model[50] == pytest.approx(shape * np.log2(10), abs=1e-3)
    assert dct(dct(shape, 1), 1) == pytest.approx(WINDOW * shape)  # what the module relies on


def test_noise_is_absent_and_speech_present():
    snr = frames_of_noise()
    assert absence(snr, STEADY, HOP_S, BIN_HZ).mean() > 0.99
    snr[150:250, 20:120] *= 20
    found = absence(snr, STEADY, HOP_S, BIN_HZ)  # a row for each pair of frames
    assert found[80:120, 30:110].max() < 0.01
    assert found[:50].mean() > 0.99


@pytest.mark.parametrize(("first", "last", "present"), [(0, 2, False), (2, 8, True)])
def test_what_is_below_a_voice_tells_of_none(first, last, present):
    snr = frames_of_noise()
    snr[150:250, first:last] *= 20
    found = absence(snr, STEADY, HOP_S, BIN_HZ)[80:120]
    assert found[:, : last + 1].max() < 0.01 if present else found.min() > 0.8


def restless(frames, swing_db, seed):
    """Noise whose level wanders, as that of water or a fire does."""
    rng = np.random.default_rng(seed)
    wander = np.convolve(rng.standard_normal(frames + 8), np.hanning(9), "valid")
    level = 10 ** (swing_db * wander / wander.std() / 10)
    return (frames_of_noise(frames, seed) * (level / level.mean())[:, None]).astype(np.float32)


def test_in_a_restless_room_more_is_asked_of_a_voice():
    asked = caution(restless(200, 3.0, 3), HOP_S, BIN_HZ)
    assert asked.min() > 1.05
    assert np.median(asked) > 1.4
    room = restless(400, 3.0, 4)
    careless = absence(room, STEADY, HOP_S, BIN_HZ).mean()
    assert careless < 0.9
    assert absence(room, asked, HOP_S, BIN_HZ).mean() > 0.95
    room[150:250, 20:120] *= 20
    assert absence(room, asked, HOP_S, BIN_HZ)[80:120, 30:110].mean() < 0.05


@pytest.mark.parametrize(("frames", "breath"), [(30, 0), (200, 0), (200, 10)])
def test_in_a_steady_room_the_usual_is_asked_and_a_breath_changes_nothing(frames, breath):
    tone = frames_of_noise(frames)
    tone[10 : 10 + breath] *= 4
    asked = caution(tone / tone.mean(axis=0), HOP_S, BIN_HZ)
    assert np.median(asked) == 1.0
    assert asked.mean() < 1.05


@pytest.mark.parametrize("floor", [0.1, 0.5, 1.0])
def test_gains_stay_between_floor_and_one(floor):
    power = frames_of_noise()
    power[100:200] *= 1000
    floors = np.full(BINS, floor, np.float32)
    gain = voice_gain(power, np.ones(BINS), STEADY, AS_IT_IS, floors, HOP_S, BIN_HZ)
    assert gain.min() >= floor - 1e-6
    assert gain.max() <= 1.0
    assert gain[120:180].mean() > 0.98
    assert gain[:60].mean() == pytest.approx(floor, abs=0.01)


def test_presence_as_written_out():
    snr = frames_of_noise(301)
    snr[100:160, 40:90] *= 8
    held = np.minimum(snr, 40.0).astype(float)
    pairs = np.append(held, held[-1:], axis=0).reshape(-1, 2, BINS).mean(axis=1)
    expected = np.ones_like(pairs)
    for near in NEIGHBOURHOODS:
        time_half, freq_half = round(near.time_s / HOP_S / 4), round(near.freq_hz / BIN_HZ / 2)
        lowest = int(np.ceil(80 / BIN_HZ))
        prior = 10 ** (near.prior_db / 10)
        for t in range(0, len(pairs), 13):
            rows = pairs[max(0, t - time_half) : t + time_half + 1]
            for k in range(0, BINS, 17):
                box = rows[:, max(lowest, k - freq_half) : k + freq_half + 1]
                values = max(1, box.shape[1] / 1.8) * max(1, 2 * (2 * time_half + 1) / 1.65)
                odds = values * (np.log1p(prior) - box.mean() * prior / (1 + prior))
                expected[t, k] *= 1 / (1 + np.exp(-np.clip(odds, -12, 12)))
    found = absence(snr, STEADY, HOP_S, BIN_HZ)
    assert found[::13, ::17] == pytest.approx(expected[::13, ::17], abs=0.03)


@pytest.mark.parametrize("swell", [1.0, 2.0])
def test_gains_as_written_out(swell):
    """Decision-directed both ways, geometric mean with the model, log-spectral amplitude, a part of the
    forward rule's own, presence; noise that swells is louder for all but presence."""
    power = frames_of_noise(200)
    power[60:120, 20:200] *= 30
    snr = power / np.float32(swell)
    keep, least = 0.965, 10**-2.5

    def amplitude(gamma, past):
        prior = np.maximum(keep * past + (1 - keep) * np.maximum(gamma - 1, 0), least)
        w = prior / (1 + prior)
        return w**2 * gamma * np.exp(exp1(w * gamma))

    ways = []
    for order in (1, -1):
        before, past = [], np.zeros(BINS)
        for gamma in snr[::order].astype(float):
            before.append(past)
            past = amplitude(gamma, past)
        ways.append(np.array(before)[::order])
    prior = keep * (ways[0] + ways[1]) / 2 + (1 - keep) * np.maximum(snr - 1.0, 0)
    prior = np.log2(np.maximum(prior, least))
    model = np.clip(
        np.repeat(voice_model(snr, HOP_S, BIN_HZ), 2, axis=0), np.log2(least), 4 / np.log10(2)
    )
    share = np.interp(np.arange(BINS) * BIN_HZ, [100, 250], [0, 0.6])
    prior = 2 ** ((1 - share) * prior + share * model)
    w = prior / (1 + prior)
    gain = np.minimum(w * np.exp(exp1(w * snr) / 2), 1)
    own = np.sqrt(amplitude(snr.astype(float), ways[0]) / np.maximum(snr, 1e-12))
    part = np.interp(np.arange(BINS) * BIN_HZ, [150, 400], [0, 0.35])
    gain += part * (np.minimum(own, 1) - gain)
    absent = np.repeat(absence(power, STEADY, HOP_S, BIN_HZ), 2, axis=0)
    expected = (1 - absent) * np.maximum(gain, 0.1) + absent * 0.1
    floor = np.full(BINS, 0.1, np.float32)
    found = voice_gain(power, np.ones(BINS), STEADY, swell * AS_IT_IS, floor, HOP_S, BIN_HZ)
    assert found == pytest.approx(expected, abs=2e-3)
