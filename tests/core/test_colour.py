"""Saturation and ambience: what they add, and what they must not."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.signal import butter, sosfilt

from tests.made_sound import RATE, level_db, noise, sine, spoken
from zesty_core.chain.recipe import ChainStep
from zesty_core.chain.runner import run_chain
from zesty_core.dsp.fast_tanh import tanh_row
from zesty_core.foundation.signal import ArraySource, SignalInfo
from zesty_core.steps.ambience import Ambience
from zesty_core.steps.saturation import Saturation


def run(sound, step, rate=RATE):
    out = []
    result = run_chain(ArraySource(sound, rate), (ChainStep(step),), out.append)
    return np.concatenate(out, axis=1), result


def saturated(sound, drive_db, reference_dbfs=0.0):
    facts = {"reference_dbfs": reference_dbfs, "makeup_db": 0.0}
    processor = Saturation(drive_db=drive_db).start(SignalInfo(RATE, 1, 0), facts)
    return np.concatenate([processor.push(sound), processor.finish()], axis=1)


def tone_db(x, freq_hz):
    window = np.hanning(x.size)
    spectrum = np.abs(np.fft.rfft(x * window)) * 2 / window.sum()
    return 20 * np.log10(spectrum[round(freq_hz * x.size / RATE)] + 1e-12)


@pytest.mark.parametrize("drive_db", [3.0, 6.0, 12.0])
def test_harmonics_are_those_of_the_curve_and_nothing_folds_back(drive_db):
    """Fourier series of tanh(a sin): computed from one period at high density."""
    freq_hz = 5000
    x = sine(0, 2, freq_hz)
    out = saturated(x, drive_db)[0, RATE // 2 : 3 * RATE // 2]
    amount = 10 ** (drive_db / 20) - 1
    phase = np.arange(4096) / 4096 * 2 * np.pi
    series = np.abs(np.fft.rfft(np.tanh(amount * np.sin(phase)) / amount)) * 2 / 4096
    for order in (1, 3):
        expected = 20 * np.log10(series[order])
        assert tone_db(out, order * freq_hz) == pytest.approx(expected, abs=0.1)
    # Harmonics above half the rate would come back at these frequencies.
    assert max(tone_db(out, f) for f in (13_000, 3000, 7000, 17_000, 1000)) < -100


def test_the_fast_tangent_is_near_the_exact_one():
    values = np.linspace(-24, 24, 48_001, dtype=np.float32)
    found = np.empty_like(values)
    tanh_row(values, 0.5, found)
    exact = np.tanh(0.5 * values.astype(np.float64))
    assert np.all(np.abs(found - exact) <= 5e-7 * np.abs(exact))


@pytest.mark.parametrize("gain_db", [0.0, -12.0])
def test_the_voice_comes_out_as_loud_as_it_went_in(gain_db):
    sound = np.concatenate([noise(-75, 2), spoken(6) + noise(-75, 6)], axis=1)
    sound = (sound * 10 ** (gain_db / 20)).astype(np.float32)
    _, result = run(sound, Saturation(drive_db=9))
    assert result.after.voice_level_dbfs == pytest.approx(result.before.voice_level_dbfs, abs=0.1)
    assert result.after.crest_db < result.before.crest_db - 0.5
    assert result.points[0].report["max_reduction_db"] == pytest.approx(2.3, abs=1.5)


def test_quiet_sound_passes_nearly_unbent():
    x = 1e-3 * spoken(2)
    assert level_db(saturated(x, 12) - x) < level_db(x) - 70


def room(decay_s, rate=RATE, channels=1):
    impulse = np.zeros((channels, round(2.5 * rate)), np.float32)
    impulse[:, 0] = 1.0
    step = Ambience(decay_s=decay_s, pre_delay_ms=0, mix=1)
    return step.start(SignalInfo(rate, channels, 0), {}).push(impulse)


@pytest.mark.parametrize("decay_s", [0.3, 0.6, 1.2])
@pytest.mark.parametrize("rate", [16_000, 48_000])
def test_the_room_decays_by_60_db_in_its_time(decay_s, rate):
    """Schroeder's backward integration (JASA 37, 1965), read from -5 to -35 dB, at 300 to 900 Hz."""
    tail = room(decay_s, rate)[0]
    band = sosfilt(butter(3, [300, 900], "bandpass", fs=rate, output="sos"), tail)
    energy = np.cumsum(band[::-1] ** 2)[::-1]
    left = 10 * np.log10(energy / energy[0])
    time_s = (np.argmax(left < -35) - np.argmax(left < -5)) / rate * 2
    assert time_s == pytest.approx(decay_s, rel=0.15)


def test_pre_delay_and_mix_are_exact_and_mono_hears_the_same_room():
    x = np.zeros((2, RATE), np.float32)
    x[:, 100] = 1.0
    step = Ambience(pre_delay_ms=20, mix=0.2)
    out = step.start(SignalInfo(RATE, 2, 0), {}).push(x)
    assert out[0, 100] == pytest.approx(0.8)
    assert not out[:, 101 : 100 + round(0.020 * RATE)].any()
    left, right = room(0.5, channels=2)
    mono = room(0.5)[0]
    assert np.allclose((left + right) / 2, mono, atol=1e-6)
    assert level_db(left - right) > level_db(mono) - 12


def test_the_room_is_as_loud_as_its_share_says():
    sound = noise(-20, 4)
    _, result = run(sound, Ambience(mix=0.5))
    assert result.points[0].report["below_voice_db"] == pytest.approx(0, abs=1.0)
