"""EQ against the Audio EQ Cookbook's facts, through an independent frequency-response routine."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import signal

from tests.made_sound import RATE
from zesty_core.foundation.signal import SignalInfo
from zesty_core.steps.eq import Band, Eq


def response_db(step, freqs, rate=RATE):
    """Response measured from what the processor makes of an impulse, by scipy's freqz."""
    impulse = np.zeros((1, 1 << 16), np.float32)
    impulse[0, 0] = 1.0
    processor = step.start(SignalInfo(rate, 1, impulse.shape[1]), {})
    out = np.concatenate(
        [processor.push(impulse[:, :777]), processor.push(impulse[:, 777:])], axis=1
    )
    _, h = signal.freqz(out[0].astype(float), worN=np.asarray(freqs, float), fs=rate)
    return 20 * np.log10(np.abs(h) + 1e-12)


# (band, frequency, expected dB): handbook facts of each shape.
FACTS = [
    (Band(type="bell", freq_hz=1000, gain_db=6, q=1), 1000, 6.0),
    (Band(type="bell", freq_hz=1000, gain_db=-9, q=4), 1000, -9.0),
    (Band(type="bell", freq_hz=1000, gain_db=6, q=2), 20, 0.0),
    (Band(type="low_shelf", freq_hz=200, gain_db=6), 200, 3.0),
    (Band(type="low_shelf", freq_hz=200, gain_db=6), 10, 6.0),
    (Band(type="high_shelf", freq_hz=5000, gain_db=-4), 5000, -2.0),
    (Band(type="high_shelf", freq_hz=5000, gain_db=-4), 23_000, -4.0),
    (Band(type="high_pass", freq_hz=80, slope_db_oct=6), 80, -3.01),
    (Band(type="high_pass", freq_hz=80, slope_db_oct=12), 80, -3.01),
    (Band(type="high_pass", freq_hz=80, slope_db_oct=18), 80, -3.01),
    (Band(type="high_pass", freq_hz=80, slope_db_oct=24), 80, -3.01),
    (Band(type="low_pass", freq_hz=9000, slope_db_oct=24), 9000, -3.01),
]


@pytest.mark.parametrize(("band", "freq_hz", "expected_db"), FACTS)
def test_facts_of_each_shape(band, freq_hz, expected_db):
    assert response_db(Eq(bands=(band,)), [freq_hz])[0] == pytest.approx(expected_db, abs=0.05)


@pytest.mark.parametrize("slope", [6, 12, 18, 24])
@pytest.mark.parametrize("rate", [16_000, 44_100, 96_000])
def test_passes_are_butterworth(slope, rate):
    freqs = np.array([20.0, 50, 100, 200, 400, 1000])
    step = Eq(bands=(Band(type="high_pass", freq_hz=100, slope_db_oct=slope),))
    b, a = signal.butter(slope // 6, 100, "high", fs=rate)
    _, h = signal.freqz(b, a, worN=freqs, fs=rate)
    assert response_db(step, freqs, rate) == pytest.approx(20 * np.log10(np.abs(h)), abs=0.05)


def test_bell_is_the_cookbook_formula():
    """Audio EQ Cookbook, peakingEQ, written out here from its analogue prototype."""
    f0, gain_db, q = 2500.0, 5.0, 1.7
    amount, w0 = 10 ** (gain_db / 40), 2 * np.pi * f0 / RATE
    alpha = np.sin(w0) / (2 * q)
    b = [1 + alpha * amount, -2 * np.cos(w0), 1 - alpha * amount]
    a = [1 + alpha / amount, -2 * np.cos(w0), 1 - alpha / amount]
    freqs = np.geomspace(30, 20_000, 60)
    _, h = signal.freqz(b, a, worN=freqs, fs=RATE)
    step = Eq(bands=(Band(freq_hz=f0, gain_db=gain_db, q=q),))
    assert response_db(step, freqs) == pytest.approx(20 * np.log10(np.abs(h)), abs=0.01)
    assert step.response_db(freqs, RATE) == pytest.approx(20 * np.log10(np.abs(h)), abs=0.001)


def test_notch_takes_out_its_frequency():
    assert response_db(Eq(bands=(Band(type="notch", freq_hz=100, q=10),)), [100, 1000])[0] < -60


def test_bands_add_up_and_trim_counts():
    bands = (Band(freq_hz=300, gain_db=-4, q=1), Band(type="high_shelf", freq_hz=8000, gain_db=2))
    freqs = np.geomspace(50, 15_000, 20)
    apart = sum(response_db(Eq(bands=(b,)), freqs) for b in bands)
    assert response_db(Eq(bands=bands, trim_db=1.5), freqs) == pytest.approx(apart + 1.5, abs=0.02)


def test_a_band_above_half_the_rate_is_left_out_and_named():
    step = Eq(bands=(Band(type="high_shelf", freq_hz=12_000, gain_db=3),))
    processor = step.start(SignalInfo(16_000, 1, 100), {})
    x = np.ones((1, 100), np.float32)
    assert np.array_equal(processor.push(x), x)
    assert processor.report()["left_out_hz"] == [12_000]
