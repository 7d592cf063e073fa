"""Hum: twenty drifting tones go, the voice between them stays."""

from __future__ import annotations

import numpy as np
import pytest

from tests.interview import lines
from tests.made_sound import RATE, level_db, noise
from zesty_core.chain.recipe import ChainStep
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.signal import ArraySource, SignalInfo, Span, joined
from zesty_core.live.passage import render_passage
from zesty_core.measures.spectrum import SpectrumMeter
from zesty_core.steps.hum import Hum


@pytest.fixture(scope="module")
def voice():
    pause = np.zeros(round(0.7 * RATE), np.float32)
    sound = np.concatenate(
        [pause, *(np.concatenate([line, pause]) for line in lines("letters-warden"))]
    )
    return (sound[None] + noise(-75, len(sound) / RATE)[:, : len(sound)]).astype(np.float32)


def hum_like(sound, base_hz, level_dbfs, drift_hz=0.2, every_s=15.0, rate=RATE):
    """Twenty tones, the higher the softer, whose fundamental swings by the drift."""
    t = np.arange(sound.shape[1]) / rate
    freq_hz = base_hz + drift_hz / 2 * np.sin(2 * np.pi * t / every_s)
    turns = np.cumsum(freq_hz) / rate
    rng = np.random.default_rng(4)
    tones = sum(np.sin(2 * np.pi * (k * turns + rng.random())) / k**0.6 for k in range(1, 21))
    return (tones * 10 ** ((level_dbfs - level_db(tones)) / 20))[None].astype(np.float32)


def processed(sound, **params):
    out = []
    result = run_chain(ArraySource(sound, RATE), (ChainStep(Hum(**params)),), out.append)
    return joined(out, len(sound)), result


def bands_of(sound):
    meter = SpectrumMeter(SignalInfo(RATE, *sound.shape))
    meter.push(sound)
    return np.array([level or -200.0 for _, level in meter.finish().third_octaves()])


@pytest.mark.parametrize(("base_hz", "drift_hz"), [(50, 0.2), (60, 0.0), (50, 0.0)])
def test_tones_go_and_the_voice_stays(voice, base_hz, drift_hz):
    hum = hum_like(voice, base_hz, -55.0, drift_hz)
    out, result = processed(voice + hum)
    inner = slice(2 * RATE, -2 * RATE)
    left = out - voice
    # Under words without a gap, where nobody hears it, a part stays.
    assert level_db(hum[:, inner]) - level_db(left[:, inner]) > 12
    begin = round(lines("letters-warden")[0].size + 0.7 * RATE)
    pause = slice(begin + round(0.1 * RATE), begin + round(0.6 * RATE))
    assert level_db(hum[:, pause]) - level_db(left[:, pause]) > 25
    voiced = bands_of(voice)[6:]
    assert np.abs(bands_of(out)[6:] - voiced)[voiced > -75].max() < 0.3
    report = result.points[0].report
    assert report["freq_hz"] == pytest.approx(base_hz, abs=0.15)
    assert report["hum_dbfs"] == pytest.approx(-55, abs=1)
    assert report["tones"] >= 15


def test_a_voice_without_hum_keeps_every_bit(voice):
    out, result = processed(voice)
    assert np.array_equal(out, voice)
    assert "no hum was found" in result.points[0].report["note"]


def test_looked_for_by_hand_where_there_is_none_hardly_anything_goes(voice):
    out, _ = processed(voice, freq_hz=50.0)
    assert level_db(out - voice) < level_db(voice) - 40


def test_another_fundamental_is_taken_by_hand(voice):
    hum = hum_like(voice, 118.3, -50.0, 0.1)
    out, _ = processed(voice + hum, freq_hz=118.0)
    inner = slice(2 * RATE, -2 * RATE)
    assert level_db(hum[:, inner]) - level_db((out - voice)[:, inner]) > 12


def test_blocks_of_any_size_and_passages_equal_the_run(voice):
    sound = voice[:, : 12 * RATE] + hum_like(voice[:, : 12 * RATE], 50, -50.0)
    whole, result = processed(sound)
    out = []
    chain = (ChainStep(Hum()),)
    run_chain(ArraySource(sound, RATE), chain, out.append, block_samples=4_801)
    assert np.array_equal(joined(out, 1), whole)
    facts = {0: result.points[0].facts}
    passage = render_passage(ArraySource(sound, RATE), chain, facts, Span(5.003, 8.0))
    assert level_db(passage.after - whole[:, round(5.003 * RATE) : 8 * RATE]) < -100


@pytest.mark.parametrize("samples", [1, 500, 4_000, 60_000])
def test_short_sounds_come_out_as_long(samples):
    out, _ = processed(noise(-30, 2)[:, :samples], freq_hz=60.0)
    assert out.shape == (1, samples)
