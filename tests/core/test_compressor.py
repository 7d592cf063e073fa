"""Compressor: static curve, time constants, make-up and guard. Giannoulis et al. 2012."""

from __future__ import annotations

import numpy as np
import pytest

from tests.made_sound import RATE, level_db, noise, sine, spoken
from zesty_core.chain.recipe import ChainStep, chain_from_json
from zesty_core.chain.runner import run_chain
from zesty_core.dsp.compression import static_reductions_db
from zesty_core.foundation.signal import ArraySource, SignalInfo
from zesty_core.steps.compressor import Compressor


def curve(x, threshold, ratio, knee):
    """Output level by eq. 4 of the paper, written out from it."""
    if 2 * (x - threshold) < -knee:
        return x
    if knee and 2 * abs(x - threshold) <= knee:
        return x + (1 / ratio - 1) * (x - threshold + knee / 2) ** 2 / (2 * knee)
    return threshold + (x - threshold) / ratio


@pytest.mark.parametrize("level", [-60, -24.5, -21.0, -18.0, -16.0, -14.9, -10.0, 0.0])
@pytest.mark.parametrize(("ratio", "knee"), [(2.0, 6.0), (4.0, 0.0), (20.0, 12.0)])
def test_static_curve(level, ratio, knee):
    expected = level - curve(level, -18.0, ratio, knee)
    levels, found = np.full(5, level, np.float32), np.empty(5, np.float32)
    static_reductions_db(levels, -18.0, 1 - 1 / ratio, knee, found)
    assert found == pytest.approx(np.full(5, expected), abs=1e-5)


@pytest.mark.parametrize("level", [-40.0, -20.0, -12.0, -6.0])
def test_a_steady_tone_comes_out_on_the_curve(level):
    """RMS detector on a sine: it hears 3 dB less than the peak."""
    step = Compressor(threshold_db=-23.0, ratio=3.0, makeup_db=0.0, detector="rms", attack_ms=5)
    processor = step.start(SignalInfo(RATE, 1, 0), {"reference_db": 0.0, "makeup_db": 0.0})
    out = processor.push(sine(level, 2))
    heard = level - 3.01
    assert level_db(out[0, RATE:]) == pytest.approx(curve(heard, -23.0, 3.0, 6.0), abs=0.1)


@pytest.mark.parametrize(("attack_ms", "release_ms"), [(5.0, 80.0), (20.0, 250.0)])
def test_attack_and_release_reach_63_percent_in_their_time(attack_ms, release_ms):
    step = Compressor(
        threshold_db=-20.0,
        ratio=4.0,
        knee_db=0.0,
        makeup_db=0.0,
        attack_ms=attack_ms,
        release_ms=release_ms,
    )
    # A constant has the same level at every sample, so the gain can be read off directly.
    x = np.full((1, 3 * RATE), 10 ** (-40 / 20), np.float32)
    x[0, RATE : 2 * RATE] = 1.0
    processor = step.start(SignalInfo(RATE, 1, 0), {"reference_db": 0.0, "makeup_db": 0.0})
    reduction = -20 * np.log10(processor.push(x)[0] / x[0])
    full = 20 * (1 - 1 / 4)
    up = np.argmax(reduction[RATE:] >= (1 - np.exp(-1)) * full) / RATE
    down = np.argmax(reduction[2 * RATE :] <= np.exp(-1) * full) / RATE
    assert up == pytest.approx(attack_ms / 1000, rel=0.05)
    assert down == pytest.approx(release_ms / 1000, rel=0.05)


def run(sound, *steps):
    out = []
    result = run_chain(ArraySource(sound, RATE), tuple(ChainStep(s) for s in steps), out.append)
    return np.concatenate(out, axis=1), result


def test_measured_makeup_brings_the_voice_back_and_the_guard_keeps_the_noise_down():
    sound = np.concatenate([noise(-60, 3), 2 * spoken(8) + noise(-60, 8)], axis=1)
    out, result = run(sound, Compressor(threshold_db=-20, ratio=4))
    assert result.after.voice_level_dbfs == pytest.approx(result.before.voice_level_dbfs, abs=0.4)
    assert result.points[0].report["makeup_db"] > 1.0
    assert level_db(out[0, RATE : 2 * RATE]) == pytest.approx(-60, abs=0.2)


@pytest.mark.parametrize("gain_db", [-12.0, 6.0])
def test_following_the_voice_treats_every_level_alike(gain_db):
    sound = np.concatenate([noise(-70, 2), spoken(8) + noise(-70, 8)], axis=1)
    step = Compressor(follow_voice=True, threshold_db=3, quiet_guard_db=-24)
    factor = 10 ** (gain_db / 20)
    _, a = run(sound, step)
    _, b = run((sound * factor).astype(np.float32), step)
    key = "typical_reduction_db"
    assert b.after.voice_level_dbfs - a.after.voice_level_dbfs == pytest.approx(gain_db, abs=0.3)
    assert a.points[0].report[key] == pytest.approx(b.points[0].report[key], abs=0.3)


def test_nothing_to_follow_leaves_the_sound_alone_and_says_so():
    sound = np.zeros((1, RATE), np.float32)
    out, result = run(sound, Compressor(follow_voice=True))
    assert np.array_equal(out, sound)
    assert "no voice" in result.notes[0]


def test_stereo_keeps_its_image():
    sound = np.stack([spoken(4)[0], 0.3 * spoken(4)[0]])
    out, _ = run(sound, Compressor(threshold_db=-30, ratio=8, makeup_db=0.0))
    loud = np.abs(sound[1]) > 1e-3
    assert out[0, loud] / out[1, loud] == pytest.approx(sound[0, loud] / sound[1, loud], rel=1e-3)


def test_the_detector_can_be_deaf_to_thumps():
    thump = sine(-6, 2, 40.0)
    deaf, _ = run(thump, Compressor(makeup_db=0.0, sidechain_high_pass_hz=200.0))
    hearing, _ = run(thump, Compressor(makeup_db=0.0))
    assert level_db(deaf) > level_db(hearing) + 4


@pytest.mark.parametrize("wanted_dbfs", [0.0, -1.0, -12.0])
@pytest.mark.parametrize("follow_voice", [False, True])
def test_make_up_brings_the_highest_peak_where_it_is_wanted(wanted_dbfs, follow_voice):
    sound = (2.0 * spoken(4) + noise(-60, 4)).astype(np.float32)
    settings = {
        "follow_voice": follow_voice,
        "threshold_db": -3 if follow_voice else -30,
        "quiet_guard_db": -20 if follow_voice else -50,
        "ratio": 4,
        "makeup_peak_dbfs": wanted_dbfs,
    }
    made = []
    result = run_chain(
        ArraySource(sound, RATE),
        chain_from_json([{"type": "compressor", "params": settings}]),
        made.append,
    )
    assert result.after.sample_peak_dbfs == pytest.approx(wanted_dbfs, abs=0.05)
    peak = np.abs(np.concatenate(made, axis=1)).max()
    assert 20 * np.log10(peak) == pytest.approx(wanted_dbfs, abs=0.05)
    assert result.points[0].report["max_reduction_db"] > 3


def test_make_up_to_a_peak_beside_a_dry_part_is_near(tmp_path):
    sound = (2.0 * spoken(4) + noise(-60, 4)).astype(np.float32)
    settings = {"threshold_db": -30, "ratio": 4, "mix": 0.5, "makeup_peak_dbfs": -1}
    chain = chain_from_json([{"type": "compressor", "params": settings}])
    result = run_chain(ArraySource(sound, RATE), chain, lambda block: None)
    assert result.after.sample_peak_dbfs == pytest.approx(-1, abs=2.5)
