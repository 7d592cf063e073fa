"""What holds for every kind of step at its defaults, on mono and stereo and at several rates."""

from __future__ import annotations

import numpy as np
import pytest

from tests.made_sound import noise, spoken
from zesty_core.chain.recipe import ChainStep
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.signal import ArraySource
from zesty_core.steps.ambience import Ambience
from zesty_core.steps.registry import STEP_TYPES

RATES = (8_000, 22_050, 48_000, 96_000)


def take(rate, channels=1):
    lead = np.zeros((channels, rate), np.float32)
    voice = np.concatenate([lead, spoken(4, rate, channels=channels)], axis=1)
    return voice + noise(-62, 5, rate, channels=channels)


def run(sound, step, rate):
    out = []
    result = run_chain(ArraySource(sound, rate), (ChainStep(step),), out.append)
    return np.concatenate(out, axis=1), result


@pytest.mark.parametrize("rate", RATES)
@pytest.mark.parametrize("name", STEP_TYPES)
def test_a_step_keeps_the_length_and_stays_finite_and_tells_plain_figures(name, rate):
    out, result = run(take(rate), STEP_TYPES[name](), rate)
    assert out.shape == take(rate).shape
    assert np.isfinite(out).all()
    report = result.points[0].as_json()["report"]
    for value in report.values():
        assert isinstance(value, int | float | str | list)
        assert not isinstance(value, float) or np.isfinite(value)


@pytest.mark.parametrize("name", [n for n in STEP_TYPES if n != Ambience.type])
def test_two_equal_channels_stay_equal_and_get_what_one_gets(name):
    rate = 48_000
    mono = take(rate)
    alone, _ = run(mono, STEP_TYPES[name](), rate)
    both, _ = run(np.repeat(mono, 2, axis=0), STEP_TYPES[name](), rate)
    assert np.array_equal(both[0], both[1])
    # Loudness counts both channels: stereo comes out 3 dB lower there.
    if name != "loudness":
        assert both[0] == pytest.approx(alone[0], abs=2e-6)


# The crossovers of the multiband turn the phase of low tones, which is not a delay.
@pytest.mark.parametrize("name", [n for n in STEP_TYPES if n != "multiband"])
def test_a_step_is_aligned_with_its_input(name):
    rate = 48_000
    sound = take(rate)
    out, _ = run(sound, STEP_TYPES[name](), rate)
    size = 1 << 19
    spectrum = np.fft.rfft(out[0], size) * np.conj(np.fft.rfft(sound[0], size))
    assert np.argmax(np.abs(np.fft.irfft(spectrum, size))) == 0
