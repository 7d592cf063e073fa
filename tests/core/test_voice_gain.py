"""What *Removed* takes off: the gain of the voice between two sides."""

from __future__ import annotations

import numpy as np
import pytest

from tests.made_sound import RATE, noise, spoken
from zesty_core.chain.recipe import chain_from_json
from zesty_core.chain.runner import run_chain
from zesty_core.compare.voice_gain import VoiceGainMeter, voice_gain_db
from zesty_core.foundation.signal import ArraySource

VOICE = 0.2 * spoken(6)


@pytest.mark.parametrize("gain_db", [-30, -3, 0, 12])
@pytest.mark.parametrize(("clearance_db", "within_db"), [(10, 0.6), (20, 0.1), (40, 0.01)])
def test_the_gain_of_a_voice_whose_noise_is_gone(gain_db, clearance_db, within_db):
    rms_db = 10 * np.log10(np.mean(VOICE**2))
    before = VOICE + noise(rms_db - clearance_db, 6)
    after = VOICE * 10 ** (gain_db / 20)
    assert voice_gain_db(before, after, RATE) == pytest.approx(gain_db, abs=within_db)


def test_block_by_block_as_in_one_piece():
    before = np.repeat(VOICE, 2, axis=0)
    after = (0.5 * before + noise(-60, 6, channels=2)).astype(np.float32)
    meter = VoiceGainMeter(RATE)
    for start in range(0, before.shape[1], 7001):
        meter.push(before[:, start : start + 7001], after[:, start : start + 7001])
    assert meter.finish() == pytest.approx(voice_gain_db(before, after, RATE), abs=1e-9)
    assert meter.finish() == pytest.approx(-6.02, abs=0.05)


@pytest.mark.parametrize(
    ("before", "after"),
    [
        (np.zeros((1, RATE)), np.zeros((1, RATE))),
        (VOICE, np.zeros_like(VOICE)),
        (VOICE, -VOICE),
        (VOICE, np.zeros((1, 0))),
        (VOICE, np.repeat(VOICE, 2, axis=0)),
    ],
    ids=["silence", "nothing left", "turned over", "empty", "other channels"],
)
def test_no_gain_is_made_up(before, after):
    assert voice_gain_db(np.float32(before), np.float32(after), RATE) is None


def test_removed_holds_the_noise_and_not_the_voice():
    """The chain turns a noisy voice up by 9 dB; after minus before alone would be the voice."""
    before = (VOICE + noise(-55, 6)).astype(np.float32)
    steps = [{"type": "noise_reduction"}, {"type": "gain", "params": {"gain_db": 9}}]
    made = []
    run_chain(ArraySource(before, RATE), chain_from_json(steps), made.append)
    after = np.concatenate(made, axis=1)
    gain = 10 ** (voice_gain_db(before, after, RATE) / 20)
    removed = after / gain - before
    loud = np.abs(VOICE) > np.quantile(np.abs(VOICE), 0.8)
    voice_left_db = 10 * np.log10(np.mean(removed[loud] ** 2) / np.mean(VOICE[loud] ** 2))
    assert voice_left_db < -20
    assert 10 * np.log10(np.mean((after - before)[loud] ** 2) / np.mean(VOICE[loud] ** 2)) > 0
