"""Noise reduction by the voice model, on a voice of the demo that it was not trained on."""

from __future__ import annotations

import hashlib
import json

import numpy as np
import pytest
import soundfile
import soxr

from tests.made_sound import ROOT, level_db, noise
from zesty_core.chain.recipe import ChainStep, Recipe
from zesty_core.chain.runner import run_chain
from zesty_core.dsp import voice_network
from zesty_core.dsp.voice_network import REACH_FRAMES, VoiceNetwork, filtered, weights
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import ArraySource, Span, joined
from zesty_core.live.passage import render_passage
from zesty_core.runtime.cores import kept_to
from zesty_core.steps.noise_reduction import NoiseReduction

RATE = 48_000
LEAD_S = 2.0
TONE = RoomTone(spans=(Span(0.0, LEAD_S),))
WARDEN = ROOT / "src" / "zesty_demo" / "voices" / "letters-warden.flac"
MODEL = {"method": "voice_model", "depth_db": 25.0}
STATISTICS = {"method": "statistics", "depth_db": 25.0}


def clean(rate=RATE, duration_s=6.0):
    sound, own_rate = soundfile.read(WARDEN, dtype="float32")
    voice = soxr.resample(sound, own_rate, rate, quality="HQ")[: round(duration_s * rate)]
    return np.concatenate([np.zeros(round(LEAD_S * rate), np.float32), voice])[None]


def noisy(ratio_db, rate=RATE, channels=1, seed=3):
    """The voice behind two seconds of room, and the voice alone."""
    voice = np.repeat(clean(rate), channels, axis=0)
    speech = voice[0, round(LEAD_S * rate) :]
    power = np.mean(np.square(speech[np.abs(speech) > 0.02 * np.abs(speech).max()]))
    duration_s = voice.shape[1] / rate + 0.1
    hiss = noise(10 * np.log10(power) - ratio_db, duration_s, rate, seed, channels)
    return voice + hiss[:, : voice.shape[1]], voice


def reduced(sound, params=MODEL, rate=RATE, block_samples=None, room_tone=TONE):
    out = []
    more = {"block_samples": block_samples} if block_samples else {}
    step = ChainStep(NoiseReduction(**params))
    result = run_chain(ArraySource(sound, rate), (step,), out.append, room_tone=room_tone, **more)
    return joined(out, len(sound)), result


def distortion_db(voice, sound, rate=RATE):
    a, b = (x[0, round(LEAD_S * rate) :].astype(np.float64) for x in (voice, sound))
    a = a * (a @ b) / (a @ a)
    return 10 * np.log10(np.sum(a * a) / np.sum((b - a) ** 2))


@pytest.mark.parametrize("ratio_db", [5, 15, 30])
def test_the_voice_comes_closer_to_the_clean_one_than_by_statistics(ratio_db):
    sound, voice = noisy(ratio_db)
    by_model, _ = reduced(sound)
    by_statistics, _ = reduced(sound, STATISTICS)
    unprocessed, model, statistics = (
        distortion_db(voice, x) for x in (sound, by_model, by_statistics)
    )
    assert model > unprocessed + (3 if ratio_db < 30 else 1)
    assert model > statistics + (0.2 if ratio_db < 30 else 0)


@pytest.mark.parametrize("rate", [16_000, 44_100, 48_000, 96_000])
@pytest.mark.parametrize("depth_db", [12.0, 25.0])
def test_pauses_go_down_by_the_depth(rate, depth_db):
    sound, _ = noisy(20, rate)
    out, _ = reduced(sound, {**MODEL, "depth_db": depth_db}, rate)
    pause = slice(rate // 4, round(1.6 * rate))
    change = level_db(out[:, pause]) - level_db(sound[:, pause])
    assert change == pytest.approx(-depth_db, abs=0.5)


def test_a_knock_between_words_goes_down_which_statistics_leave():
    sound, _ = noisy(25)
    at = round(0.8 * RATE)
    length = RATE // 8
    knock = noise(-25, length / RATE, RATE, 9)[0, :length] * np.exp(
        -np.arange(length) / (0.02 * RATE)
    )
    sound[0, at : at + length] += knock.astype(np.float32)
    tone = RoomTone(spans=(Span(0.0, 0.7),))
    model, statistics = (
        reduced(sound, params, room_tone=tone)[0] for params in (MODEL, STATISTICS)
    )
    here = slice(at, at + length)
    assert level_db(model[:, here]) < level_db(sound[:, here]) - 15
    assert level_db(model[:, here]) < level_db(statistics[:, here]) - 6


def test_neither_blocks_nor_threads_change_a_sample():
    sound, _ = noisy(12)
    sound = np.tile(sound, (1, 4))
    whole, _ = reduced(sound)
    with kept_to(1):
        parts, _ = reduced(sound, block_samples=7001)
    assert np.array_equal(whole, parts)


@pytest.mark.parametrize("rate", [8_000, 44_100, 48_000])
def test_a_passage_is_that_of_the_run(rate):
    sound, _ = noisy(12, rate)
    sound = np.tile(sound, (1, 3))
    whole, result = reduced(sound, rate=rate)
    facts = {0: result.points[0].facts}
    chain = (ChainStep(NoiseReduction(**MODEL)),)
    start_s, end_s = 8.0, 10.0
    passage = render_passage(ArraySource(sound, rate), chain, facts, Span(start_s, end_s))
    expected = whole[:, round(start_s * rate) : round(end_s * rate)]
    assert passage.after == pytest.approx(expected, abs=2e-5)


def test_channels_share_one_filter():
    sound, _ = noisy(12, channels=1)
    stereo = np.concatenate([sound, 0.5 * sound])
    out, _ = reduced(stereo)
    assert out[1] == pytest.approx(0.5 * out[0], abs=1e-6)


def test_without_a_voice_statistics_take_its_place_and_the_report_says_so():
    sound = noise(-50, 6, RATE)
    out, result = reduced(sound)
    assert "statistics took the place" in result.points[0].report["note"]
    assert level_db(out) - level_db(sound) == pytest.approx(-25, abs=1)


@pytest.mark.parametrize(
    ("version", "params", "method", "depth_db"),
    [
        (1, {}, "statistics", 20),
        (1, {"depth_db": 12}, "statistics", 12),
        (1, {"method": "voice_model"}, "voice_model", 25),
        (2, {}, "voice_model", 25),
        (2, {"depth_db": 12}, "voice_model", 12),
    ],
)
def test_recipes_of_before_the_voice_model_run_by_statistics(version, params, method, depth_db):
    document = {
        "format": "zesty-recipe",
        "version": version,
        "name": "Room",
        "steps": [{"type": "noise_reduction", "params": params}],
    }
    (entry,) = Recipe.from_json(document).chain
    assert (entry.step.method, entry.step.depth_db) == (method, depth_db)


def test_spectra_through_the_network_as_kept():
    """Made numbers in the network's shapes give the kept values, whatever weights are shipped.

    The values were computed by the training's own implementation in another library.
    """
    rng = np.random.default_rng(8)
    made = {
        name: (0.5 * rng.standard_normal(value.shape) / max(1, value.shape[-1]) ** 0.5)
        if value.ndim
        else value
        for name, value in sorted(weights().items())
    }
    numbers = {name: np.asarray(value, np.float32) for name, value in made.items()}
    spectra = rng.standard_normal((40, 769)) + 1j * rng.standard_normal((40, 769))
    spectra = spectra.astype(np.complex64)
    filters = VoiceNetwork(numbers).filters(spectra, np.full(769, 0.5), 2.0)
    kept = json.loads((ROOT / "tests/core/golden/voice-network.json").read_text())
    assert filters.gains[::13, ::37] == pytest.approx(np.array(kept["gains"]), abs=1e-5)
    taps = np.linalg.norm(filters.taps[20, ::53], axis=1).T
    assert taps == pytest.approx(np.array(kept["taps"]), abs=1e-5)
    assert filters.presence[::7] == pytest.approx(np.array(kept["presence"]), abs=1e-5)
    assert filtered(spectra, filters).shape == spectra.shape


def test_frames_further_away_than_the_reach_change_nothing():
    rng = np.random.default_rng(1)
    frames = 2 * REACH_FRAMES + 40
    spectra = (rng.standard_normal((frames, 769)) + 1j).astype(np.complex64)
    other = spectra.copy()
    other[:10] *= 7
    network = VoiceNetwork()
    one, two = (network.filters(x, np.full(769, 0.5), 2.0) for x in (spectra, other))
    assert np.array_equal(one.gains[REACH_FRAMES + 12 :], two.gains[REACH_FRAMES + 12 :])


def test_the_weights_are_small_and_of_the_format_that_is_read():
    path = ROOT / "src/zesty_core/dsp/voice_network.npz"
    assert path.stat().st_size < 4_000_000
    assert int(weights()["format"]) == voice_network.FORMAT
    digest = hashlib.sha256(path.read_bytes()).hexdigest()
    assert digest == voice_network.WEIGHTS_SHA256, "other weights: raise ENGINE_VERSION, then this"


@pytest.mark.parametrize(
    ("numbers", "message"), [(None, "is not installed"), ({"format": 7}, "has format 7")]
)
def test_weights_that_are_missing_or_of_another_format_are_refused(
    numbers, message, tmp_path, monkeypatch
):
    if numbers:
        np.savez(tmp_path / "voice_network.npz", **numbers)
    monkeypatch.setattr(voice_network.resources, "files", lambda _: tmp_path)
    weights.cache_clear()
    sound, _ = noisy(12)
    try:
        with pytest.raises(BadInput, match=f"{message}.*choose statistics"):
            reduced(sound)
        out, _ = reduced(sound, STATISTICS)
        assert out.shape == sound.shape
    finally:
        weights.cache_clear()
