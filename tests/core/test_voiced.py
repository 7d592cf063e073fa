"""Whether a sound repeats itself as a voice does, estimated from sums over milliseconds."""

from __future__ import annotations

import numpy as np
import pytest

from tests.made_sound import RATE, noise, swelling
from zesty_core.measures.hops import HopSums, samples_per_ms
from zesty_core.measures.voiced import VoicedMeter

DURATION_S = 4.0


def pulses(pitch_hz, rate=RATE):
    """A vowel that glides by a semitone, -20 dBFS."""
    t = np.arange(round(DURATION_S * rate)) / rate
    phase = 2 * np.pi * np.cumsum(pitch_hz * 2 ** (np.sin(2 * np.pi * t) / 12)) / rate
    partials = range(1, 1 + int(min(3000, rate / 2.2) / pitch_hz))
    sound = sum(np.cos(k * phase) / k**0.8 for k in partials)
    return (0.1 * sound / np.std(sound))[None].astype(np.float32)


def flags(sound, rate=RATE, block=None):
    meter, sums = VoicedMeter(len(sound)), HopSums(samples_per_ms(rate), len(sound))
    for start in range(0, sound.shape[1], block or sound.shape[1]):
        meter.push_hops(sums.push(sound[:, start : start + (block or sound.shape[1])]))
    return meter.flags()


def rumble():
    spectrum = np.fft.rfft(noise(0, DURATION_S)[0])
    sound = np.fft.irfft(
        spectrum / np.maximum(np.fft.rfftfreq(round(DURATION_S * RATE), 1 / RATE), 20)
    )
    return (0.1 * sound / np.std(sound))[None].astype(np.float32)


@pytest.mark.parametrize("pitch_hz", [80, 120, 170, 230, 310])
@pytest.mark.parametrize("rate", [8_000, 22_050, 44_100, 48_000])
def test_a_vowel_over_noise_repeats_itself(pitch_hz, rate):
    sound = pulses(pitch_hz, rate)
    assert flags(sound + noise(-30, DURATION_S, rate)[:, : sound.shape[1]], rate).mean() > 0.8


@pytest.mark.parametrize(
    ("sound", "most"),
    [
        pytest.param(noise(-20, DURATION_S), 0.01, id="hiss"),
        pytest.param(swelling(noise(-20, DURATION_S), 9.0, 0.1), 0.01, id="bangs"),
        pytest.param(rumble(), 0.04, id="rumble"),
        pytest.param(np.full((1, 4 * RATE), 0.2, np.float32), 0.02, id="an offset"),
        pytest.param(noise(-60, DURATION_S) + np.float32(0.3), 0.02, id="hiss with an offset"),
        pytest.param(np.zeros((1, 4 * RATE), np.float32), 0.0, id="silence"),
    ],
)
def test_what_is_no_voice_does_not(sound, most):
    assert flags(sound).mean() <= most


def test_channels_that_would_cancel_each_other_still_tell():
    one = pulses(120)
    assert flags(np.concatenate([one, -one])).mean() == flags(one).mean()


@pytest.mark.parametrize("block", [777, 48_000])
def test_blocks_tell_what_the_whole_does(block):
    sound = pulses(200) + noise(-22, DURATION_S)
    whole = flags(sound)
    assert whole.shape == flags(sound, block=block).shape
    assert np.array_equal(whole, flags(sound, block=block))


def test_a_step_is_told_about_its_middle():
    sound = noise(-50, DURATION_S)
    sound[:, RATE : 2 * RATE] += pulses(150)[:, :RATE]
    told_s = (VoicedMeter.FIRST_MS + 20 * np.flatnonzero(flags(sound))) / 1000
    assert told_s.min() == pytest.approx(1.0, abs=0.05)
    assert told_s.max() == pytest.approx(2.0, abs=0.05)
