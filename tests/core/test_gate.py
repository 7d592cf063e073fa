"""Gate and expander: thresholds, curve, timing, look-ahead. DAFX, 2nd ed., ch. 4."""

from __future__ import annotations

import numpy as np
import pytest

from tests.made_sound import RATE, level_db, noise, sine, spoken
from zesty_core.chain.recipe import ChainStep
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.signal import ArraySource, SignalInfo
from zesty_core.steps.gate import Gate

FACTS = {"reference_db": 0.0, "centres": []}


def gated(sound, **settings):
    processor = Gate(**settings).start(SignalInfo(RATE, len(sound), 0), FACTS)
    return np.concatenate([processor.push(sound), processor.finish()], axis=1), processor.report()


def constant(*levels_and_seconds):
    """Stretches of one value: their mean square is the same at every sample."""
    return np.concatenate(
        [np.full((1, round(s * RATE)), 10 ** (v / 20), np.float32) for v, s in levels_and_seconds],
        axis=1,
    )


@pytest.mark.parametrize(
    ("level", "ratio", "floor", "expected"),
    [
        (-30, 2, -60, -30),  # above: unchanged
        (-50, 2, -60, -60),  # 10 under at 2:1: 10 down
        (-50, 3, -60, -70),
        (-60, 1.5, -60, -70),
        (-60, 4, -12, -72),  # the floor stops it
    ],
)
def test_the_expander_follows_its_curve(level, ratio, floor, expected):
    tone = sine(level + 3.01, 3)
    out, _ = gated(tone, mode="expand", threshold_db=-40, ratio=ratio, floor_db=floor)
    assert level_db(out[0, 2 * RATE :]) == pytest.approx(expected, abs=0.2)


@pytest.mark.parametrize(("level", "is_open"), [(-34, True), (-39, True), (-41, False)])
def test_hysteresis_keeps_open_what_would_not_open_it(level, is_open):
    """Opened at -30, threshold -35, hysteresis 5 dB: shuts below -40 only."""
    sound = constant((-30, 1), (level, 2))
    out, report = gated(sound, mode="gate", threshold_db=-35, hysteresis_db=5, floor_db=-20)
    change = level_db(out[0, 2 * RATE :]) - level
    assert change == pytest.approx(0 if is_open else -20, abs=0.05)
    assert report["openings"] == 1


def test_it_opens_once_while_it_is_held():
    """A level that crosses the threshold all the time, faster than hold lets go."""
    sound = noise(-40, 4)
    _, report = gated(sound, mode="expand", threshold_db=-40, ratio=2, floor_db=-20, hold_ms=300)
    assert report["openings"] == 1


@pytest.mark.parametrize(("attack_ms", "release_ms"), [(2, 100), (10, 300)])
def test_attack_hold_and_release_take_their_time(attack_ms, release_ms):
    sound = constant((-60, 1), (-10, 1), (-60, 2))
    out, _ = gated(
        sound,
        mode="gate",
        threshold_db=-40,
        floor_db=-30,
        open_early_ms=0,
        attack_ms=attack_ms,
        hold_ms=200,
        release_ms=release_ms,
    )
    gain = 20 * np.log10(out[0] / sound[0])
    opens = np.argmax(gain[RATE:] > -30 * np.exp(-1)) / RATE
    assert opens == pytest.approx(attack_ms / 1000, abs=0.001)
    # From -10 to the -44 dB where it shuts, the detector itself takes 5 ms x ln(10^3.4).
    falls = np.argmax(gain[2 * RATE :] < -30 * (1 - np.exp(-1))) / RATE
    detector = 0.005 * np.log(10**3.4)
    assert falls == pytest.approx(detector + 0.2 + release_ms / 1000, rel=0.03)


def test_opening_early_leaves_the_first_consonant_whole():
    sound = constant((-70, 1), (-20, 1))
    out, _ = gated(sound, mode="gate", threshold_db=-40, floor_db=-40, open_early_ms=20)
    assert out[0, RATE:] == pytest.approx(sound[0, RATE:], rel=0.01)
    assert level_db(out[0, : RATE // 2]) == pytest.approx(-110, abs=0.1)


def test_an_open_gate_passes_every_bit():
    sound = sine(-10, 1)
    out, _ = gated(sound, threshold_db=-60)
    assert np.array_equal(out[0, RATE // 4 :], sound[0, RATE // 4 :])


@pytest.mark.parametrize("offset", [0.0, -0.03])
def test_only_the_gaps_get_quieter(offset):
    """An offset, here 10 dB over the threshold, does not hold it open."""
    pause = np.zeros((1, RATE), np.float32)
    voice = np.concatenate([pause, spoken(7), pause], axis=1)
    sound = voice + noise(-60, 9) + np.float32(offset)
    step = Gate(follow_voice=True, threshold_db=-25, floor_db=-12)
    out = []
    result = run_chain(ArraySource(sound, RATE), (ChainStep(step),), out.append)
    report = result.points[0].report
    assert result.after.noise_floor_dbfs == pytest.approx(-72, abs=1.0)
    # Shut to the very end, where there is nothing to look ahead at.
    last = np.concatenate(out, axis=1)[:, -RATE // 100 :]
    assert level_db(last - last.mean()) == pytest.approx(-72, abs=1.5)
    assert result.after.voice_level_dbfs == pytest.approx(result.before.voice_level_dbfs, abs=0.1)
    assert 0.05 < report["active_share"] < 0.8
    assert report["max_reduction_db"] == pytest.approx(12, abs=0.1)
