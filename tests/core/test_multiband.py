"""Multiband compressor: crossovers add up flat (Linkwitz 1976), bands work by themselves."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.signal import sosfreqz

from tests.made_sound import RATE, noise, sine, spoken
from zesty_core.chain.recipe import ChainStep, chain_from_json
from zesty_core.chain.runner import run_chain
from zesty_core.dsp.crossover import band_sections
from zesty_core.foundation.errors import BadSetting
from zesty_core.foundation.signal import ArraySource, SignalInfo
from zesty_core.steps.compressor import Compressor
from zesty_core.steps.multiband import Multiband


def response(sections, freq_hz):
    """By SciPy's sosfreqz."""
    rows = [[b0, b1, b2, 1.0, a1, a2] for b0, b1, b2, a1, a2 in sections]
    return sosfreqz(np.array(rows), worN=freq_hz, fs=RATE)[1]


@pytest.mark.parametrize("crossovers", [(1000.0,), (200.0, 3000.0), (120.0, 800.0, 5000.0)])
def test_bands_add_up_flat(crossovers):
    freq_hz = np.geomspace(20, 20_000, 400)
    total = sum(response(band, freq_hz) for band in band_sections(crossovers, RATE))
    assert np.abs(20 * np.log10(np.abs(total))).max() < 0.01  # asked for: 0.1 dB


@pytest.mark.parametrize(("octaves", "expected_db"), [(0, -6.02), (2, -48.20), (3, -72.25)])
def test_a_band_falls_by_24_db_per_octave(octaves, expected_db):
    """Fourth order: 1 / (1 + (f/fc)^4), Linkwitz 1976."""
    low = band_sections((100.0,), RATE)[0]
    gain = 20 * np.log10(np.abs(response(low, [100.0 * 2**octaves])[0]))
    assert gain == pytest.approx(expected_db, abs=0.1)


def test_each_band_is_turned_down_by_itself():
    idle = {"ratio": 1, "makeup_db": 0}
    bands = [idle, {"threshold_db": -40, "ratio": 4, "makeup_db": 0, "detector": "rms"}, idle]
    step = Multiband.from_params({"crossovers_hz": [200, 3000], "bands": bands})
    low, middle = sine(-20, 2, 60), sine(-20, 2, 800)
    facts = {"bands": [{"reference_db": 0.0, "makeup_db": 0.0}] * 3}
    processor = step.start(SignalInfo(RATE, 1, 0), facts)
    out = processor.push(low + middle)[0, RATE:]
    spectrum = np.abs(np.fft.rfft(out * np.hanning(RATE))) * 4 / RATE
    assert 20 * np.log10(spectrum[60]) == pytest.approx(-20, abs=0.3)
    # 17 dB over the threshold at 4:1: three quarters of them go.
    assert 20 * np.log10(spectrum[800]) == pytest.approx(-20 - 0.75 * 17, abs=0.4)
    assert processor.report()["bands"][0]["max_reduction_db"] == 0


def test_measured_makeup_brings_each_band_back():
    sound = np.concatenate([noise(-75, 2), spoken(8) + noise(-75, 8)], axis=1)
    band = Compressor(follow_voice=True, threshold_db=-3, ratio=3, quiet_guard_db=-40)
    step = Multiband(bands=(band,) * 3)
    result = run_chain(ArraySource(sound, RATE), (ChainStep(step),), lambda block: None)
    before, after = result.before.spectrum, result.after.spectrum
    for low, high in ((60, 200), (200, 3000)):
        change = 10 * np.log10(after.band_power(low, high) / before.band_power(low, high))
        assert change == pytest.approx(0, abs=0.6)
    assert result.points[0].report["max_reduction_db"] > 3


@pytest.mark.parametrize(
    ("params", "message"),
    [
        ({"crossovers_hz": [500]}, "bands: must hold 2 bands for 1 crossovers, got 3"),
        ({"crossovers_hz": [500, 300]}, "crossovers_hz: must rise"),
        ({"crossovers_hz": []}, "must be a list of 1 to 3 numbers"),
        ({"crossovers_hz": [500, "x"]}, r"crossovers_hz\[1\]: must be a number from 40 to 18000"),
        ({"bands": [{"ratio": 0}, {}, {}]}, r"bands\[0\]\.ratio: must be from 1 to 50"),
    ],
)
def test_refusals_name_the_place(params, message):
    with pytest.raises(BadSetting, match=message):
        chain_from_json([{"type": "multiband", "params": params}])
