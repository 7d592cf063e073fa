"""Average spectrum against SciPy's Welch; hum against what was put in."""

from __future__ import annotations

import json

import numpy as np
import pytest
from scipy.signal import welch

from tests.made_sound import RATE, RECORDINGS, ROOT, level_db, noise, sine, spoken
from zesty_core.audio.reader import AudioFile
from zesty_core.foundation.signal import ArraySource, SignalInfo
from zesty_core.measures.spectrum import SpectrumMeter
from zesty_core.measures.stream import measure


def measured(sound, rate=RATE, block=65_536):
    source = ArraySource(sound, rate)
    return measure(source.blocks(block), source.info)


@pytest.mark.parametrize("rate", [8_000, 44_100, 48_000, 96_000])
def test_spectrum_agrees_with_an_independent_welch(rate):
    sound = noise(-30, 6, rate) + sine(-20, 6, 1000, rate)
    spectrum = measured(sound, rate).spectrum
    size = 2 * (len(spectrum.power) - 1)
    _, density = welch(sound[0], rate, "hann", size, size // 2, detrend=False, scaling="density")
    expected = density * rate / size
    assert spectrum.power == pytest.approx(expected, rel=0.05)
    assert 10 * np.log10(spectrum.power.sum()) == pytest.approx(level_db(sound), abs=0.1)


@pytest.mark.parametrize(("duration_s", "apart"), [(60, 0.5), (200, 1), (700, 2.37)])
@pytest.mark.parametrize("block", [1_000, 100_000, 1_000_000])
def test_windows_of_long_recordings_stand_apart(duration_s, apart, block):
    """Only the length is told to be long; the windows are where they should be."""
    sound = noise(-30, 12) * np.linspace(0.1, 1, 12 * RATE, dtype=np.float32)
    meter = SpectrumMeter(SignalInfo(RATE, 1, duration_s * RATE))
    for start in range(0, sound.shape[1], block):
        meter.push(sound[:, start : start + block])
    size, hop = 4096, round(4096 * apart)
    frames = np.lib.stride_tricks.sliding_window_view(sound[0].astype(float), size)[::hop]
    window = np.hanning(size + 1)[:size]
    power = np.square(np.abs(np.fft.rfft(frames * window))).mean(axis=0) * 2 / size
    assert meter.finish().power[1:-1] == pytest.approx((power / (window @ window))[1:-1], rel=1e-3)


def test_third_octaves_hold_a_tone_in_its_band_and_noise_rises_with_width():
    bands = dict(measured(sine(-20, 4, 1000) + noise(-60, 4)).spectrum.third_octaves())
    assert bands[1000.0] == pytest.approx(-23.0, abs=0.1)
    # White noise: 1 dB more in each wider band (IEC 61260-1: a tenth of a decade).
    assert bands[15848.9] - bands[3981.1] == pytest.approx(6.0, abs=0.5)
    assert bands[15848.9] == pytest.approx(-60 + 10 * np.log10(3650 / 24_000), abs=0.5)


def test_spectrum_and_hum_do_not_depend_on_blocks():
    sound = spoken(3) + sine(-50, 3, 50) + noise(-70, 3)
    a, b = measured(sound), measured(sound, block=777)
    assert np.array_equal(a.spectrum.power, b.spectrum.power)
    assert a.hum == b.hum


@pytest.mark.parametrize("base_hz", [50, 60])
@pytest.mark.parametrize("rate", [8_000, 44_100, 48_000, 192_000])
def test_hum_is_found_with_its_level_and_family(base_hz, rate):
    lines = sine(-50, 6, base_hz, rate) + sine(-56, 6, 2 * base_hz, rate)
    found = measured(lines + noise(-60, 6, rate) + spoken(6, rate), rate).hum
    assert found.base_hz == base_hz
    assert found.lines_hz[:2] == (base_hz, 2 * base_hz)
    assert found.level_dbfs == pytest.approx(level_db(lines), abs=0.5)


@pytest.mark.parametrize(
    "sound", [noise(-50, 6), spoken(6), np.zeros((1, RATE), np.float32), noise(-50, 0.2)]
)
def test_no_hum_is_invented(sound):
    assert measured(sound).hum is None


@pytest.mark.parametrize("path", sorted((ROOT / "src" / "zesty_demo" / "voices").glob("*.flac")))
def test_no_hum_in_the_clean_voices(path):
    file = AudioFile(path)
    assert measure(file.blocks(), file.info).hum is None


@pytest.mark.parametrize("path", sorted(RECORDINGS.glob("*.wav")))
def test_planted_hum_is_measured(path):
    file = AudioFile(path)
    truth = json.loads(path.with_suffix(".truth.json").read_text())
    found = measure(file.blocks(), file.info).hum
    assert found.base_hz == truth["hum_hz"]
    assert found.level_dbfs == pytest.approx(truth["hum_dbfs"], abs=1.0)
