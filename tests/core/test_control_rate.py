"""Hops, energies and gliding gains: the same however the sound is cut, and as written out plainly."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from scipy.signal import sosfilt

from tests.made_sound import RATE, noise, sine, spoken
from zesty_core.dsp import biquad
from zesty_core.dsp.cascade import Cascade
from zesty_core.dsp.compression import compress, empty_histogram
from zesty_core.dsp.compressor_state import STATE_SIZE, Curve, Smoothing
from zesty_core.dsp.control_rate import CONTROL_SAMPLES, GlidingFactor, HopEnergy
from zesty_core.dsp.filtered_energy import FilteredEnergy
from zesty_core.dsp.hop_cuts import cut_at_hops
from zesty_core.measures.loudness import k_weighting
from zesty_core.measures.speech import SpeechMeter

CUTS = [[1000], [16] * 40, [1, 2, 3, 15, 17, 400], [5] * 200]


def cut(sound, sizes):
    """The sound in blocks of these sizes, the last as long as is left."""
    edges = [0, *np.cumsum(sizes), sound.shape[1]]
    return [sound[:, a:b] for a, b in itertools.pairwise(edges) if b > a]


@pytest.mark.parametrize("sizes", CUTS)
def test_hops_are_whole_and_nothing_is_lost(sizes):
    sound = np.arange(2010, dtype=np.float32)[None]
    held, seen = sound[:, :0], []
    for block in cut(sound, sizes):
        straddling, whole, held = cut_at_hops(held, block, 48)
        assert straddling.shape[1] % 48 == whole.shape[1] % 48 == 0
        seen += [straddling, whole]
    assert np.array_equal(np.concatenate([*seen, held], axis=1), sound)
    assert held.shape[1] == 2010 % 48


@pytest.mark.parametrize("sizes", CUTS)
@pytest.mark.parametrize("channels", [1, 2])
def test_energy_of_the_louder_channel(sizes, channels):
    sound = noise(-20, 0.05, channels=channels)
    meter = HopEnergy(channels)
    found = np.concatenate([meter.push(block) for block in cut(sound, sizes)])
    squares = (sound.astype(float) ** 2).max(axis=0)
    hops = len(squares) // CONTROL_SAMPLES
    expected = squares[: hops * CONTROL_SAMPLES].reshape(hops, -1).sum(axis=1)
    assert found == pytest.approx(expected, rel=1e-12)


@pytest.mark.parametrize("sizes", CUTS)
def test_filtered_energy_agrees_with_an_independent_filter(sizes):
    sound = noise(-20, 0.05)
    rows = k_weighting(RATE)
    meter = FilteredEnergy(rows, 480, 1)
    found = np.concatenate([meter.push(block)[0] for block in cut(sound, sizes)])
    sos = np.insert(rows, 3, 1.0, axis=1)
    heard = sosfilt(sos, sound[0].astype(float))
    assert found == pytest.approx((heard[:2400].reshape(-1, 480) ** 2).sum(axis=1), rel=1e-9)


@pytest.mark.parametrize("count", [1, 2, 7, 8, 9, 17])
@pytest.mark.parametrize("sizes", [*CUTS, [13, 14, 15, 2061, 2062]])
def test_any_number_of_sections_agrees_with_an_independent_filter(count, sizes):
    rows = np.array([biquad.bell(200.0 * (n + 1), 1.0, 6.0 - 3 * n, RATE) for n in range(count)])
    sound = noise(-20, 0.1)
    cascade = Cascade(rows, 1)
    made = np.concatenate([cascade(block) for block in cut(sound, sizes)], axis=1)
    expected = sosfilt(np.insert(rows, 3, 1.0, axis=1), sound[0].astype(float))
    assert made[0] == pytest.approx(expected, abs=1e-7)
    assert np.array_equal(made, Cascade(rows, 1)(sound))


@pytest.mark.parametrize("sizes", CUTS)
def test_a_goal_is_reached_one_hop_later_on_a_straight_line(sizes):
    goals = np.array([1.0, 0.5, 0.5, 1.0, 1.0], np.float32)
    glide, made, used = GlidingFactor(1.0), [], 0
    sound = np.zeros((1, 5 * CONTROL_SAMPLES + 4))
    done = 0
    for block in cut(sound, [min(s, 7) for s in sizes][:11]):
        done += block.shape[1]
        fresh = goals[used : done // CONTROL_SAMPLES]
        used += len(fresh)
        made.append(glide.push(fresh, block.shape[1]))
    corners = np.arange(7) * CONTROL_SAMPLES
    expected = np.interp(np.arange(done) + 1, corners, [1, 1, 1, 0.5, 0.5, 1, 1])
    assert np.concatenate(made) == pytest.approx(expected, abs=1e-6)
    assert (np.concatenate(made)[:32] == 1.0).all()


def plain_active_level(sound, rate):
    """ITU-T P.56, method B, written out threshold by threshold."""
    hop = rate // 1000
    hops = sound[0, : sound.shape[1] // hop * hop].astype(float).reshape(-1, hop)
    thresholds_db = np.arange(-105.0, 0.1, 1.5)
    keep = np.exp(-1.0 / 30.0)
    first = second = 0.0
    hang, active = np.full(len(thresholds_db), -1), np.zeros(len(thresholds_db))
    for magnitude in np.abs(hops).mean(axis=1):
        first = keep * first + (1 - keep) * magnitude
        second = keep * second + (1 - keep) * first
        over = second >= 10 ** (thresholds_db / 20)
        hang = np.where(over, 200, hang - 1)
        active += hang >= 0
    energy = (hops**2).sum()
    heard = active > 0
    level = 10 * np.log10(energy / (active[heard] * hop))
    above = level - thresholds_db[heard] - 15.9
    at = int(np.argmax(above <= 0))
    share = above[at - 1] / (above[at - 1] - above[at])
    return level[at - 1] + share * (level[at] - level[at - 1])


@pytest.mark.parametrize("sound", [spoken(4), spoken(2) * 0.01, sine(-20, 1)], ids="vsq")
@pytest.mark.parametrize("sizes", CUTS)
def test_active_level_as_written_out(sound, sizes):
    meter = SpeechMeter(RATE, 1)
    for block in cut(sound, sizes):
        meter.push(np.ascontiguousarray(block))
    level, _ = meter.level_and_activity()
    assert level == pytest.approx(plain_active_level(sound, RATE), abs=0.003)


@pytest.mark.parametrize("makeup_db", [0.0, 6.0])
@pytest.mark.parametrize("auto_release", [False, True])
def test_compression_as_written_out(makeup_db, auto_release):
    """Giannoulis, Massberg & Reiss 2012, eq. 4 and 16, one sample after the other."""
    sound = spoken(0.5) + noise(-80, 0.5)  # never silent, so that the guard stays open
    threshold, slope, knee = -24.0, 0.6, 6.0
    attack, release, slow_attack, slow_release = 0.99, 0.999, 0.9992, 0.9998
    state, out = np.zeros(STATE_SIZE), np.empty_like(sound)
    energies = HopEnergy(1).push(sound)
    curve = Curve(threshold, slope, knee, makeup_db, -300.0)  # a guard far down
    smoothing = Smoothing(attack, release, slow_attack, slow_release, 0.0, 0.0, 0.0, 0.0)
    compress(
        sound,
        sound,
        energies,
        out,
        state,
        curve,
        smoothing,
        empty_histogram(),
        False,
        auto_release,
        1.0,
    )
    fast = slow = 0.0
    expected = []
    for n, v in enumerate(sound[0].astype(float)):
        over = 20 * np.log10(max(abs(v), 1e-15)) - threshold
        bent = slope * (over + knee / 2) ** 2 / (2 * knee)
        wanted = slope * over if 2 * over > knee else bent if 2 * over > -knee else 0.0
        pace = attack if wanted > fast else release
        fast = pace * fast + (1 - pace) * wanted
        pace = slow_attack if wanted > slow else slow_release
        slow = pace * slow + (1 - pace) * wanted
        # The guard opens with the end of the first hop.
        lift = makeup_db if n >= CONTROL_SAMPLES else 0.0
        applied = max(fast, slow) if auto_release else fast
        expected.append(v * 10 ** ((lift - applied) / 20))
    assert out[0] == pytest.approx(np.array(expected), abs=2e-5)
    assert state[0] == pytest.approx(fast, abs=1e-4)
