"""The starter recipe on the demo recordings, measured; and the demo's own truth."""

from __future__ import annotations

import json

import numpy as np
import pytest
from scipy import signal

from tests.made_sound import RECORDINGS, STARTER
from zesty_core.audio.reader import AudioFile
from zesty_core.chain.recipe import read_recipe
from zesty_core.chain.runner import run_chain
from zesty_core.steps.eq import Eq

NAMES = sorted(p.stem for p in RECORDINGS.glob("*.wav"))
THIRDS_HZ = 1000 * 2.0 ** (np.arange(-9, 11) / 3)  # IEC 61260-1, base 2


@pytest.fixture(scope="module")
def results():
    recipe = read_recipe(STARTER)
    made = {}
    for name in NAMES:
        file, out = AudioFile(RECORDINGS / f"{name}.wav"), []
        result = run_chain(file, recipe.chain, out.append)
        made[name] = (file, np.concatenate(out, axis=1), result)
    return made


def truth_of(name):
    return json.loads((RECORDINGS / f"{name}.truth.json").read_text())


def test_six_recordings_with_their_rates_and_channels():
    shapes = {(t["sample_rate_hz"], t["channels"]) for t in map(truth_of, NAMES)}
    assert len(NAMES) == 6
    assert shapes == {(48_000, 1), (48_000, 2), (44_100, 1)}


def test_voice_levels_end_within_one_db_of_each_other(results):
    levels = [r.after.voice_level_dbfs for _, _, r in results.values()]
    assert max(levels) - min(levels) <= 1.0


@pytest.mark.parametrize("name", NAMES)
def test_noise_floor_goes_down_by_ten_db_and_the_ceiling_holds(results, name):
    _, _, result = results[name]
    assert result.after.noise_floor_dbfs <= result.before.noise_floor_dbfs - 10
    assert result.after.clearance_db >= result.before.clearance_db + 10
    assert result.after.true_peak_dbtp <= -1.0


@pytest.mark.parametrize("name", NAMES)
def test_room_tone_is_found_before_the_first_word(results, name):
    _, _, result = results[name]
    truth = truth_of(name)
    assert result.room_tone_source == "found"
    assert 0 <= result.room_tone.start_s < result.room_tone.end_s <= truth["lines"][0][0] + 0.1


@pytest.mark.parametrize("name", NAMES)
def test_planted_clipping_is_found_and_none_invented(results, name):
    _, _, result = results[name]
    assert result.before.clipped_runs == len(truth_of(name)["clipped_at_s"])
    assert result.before.dc_offset[0] == pytest.approx(truth_of(name)["dc_offset"], abs=6e-4)


def thirds_db(sound, rate, lines):
    """Third-octave levels over the spoken lines only."""
    spoken = np.concatenate([sound[:, int(a * rate) : int(b * rate)] for a, b in lines], axis=1)
    freqs, power = signal.welch(spoken[0], rate, nperseg=8192)
    edges = [(f * 2 ** (-1 / 6), f * 2 ** (1 / 6)) for f in THIRDS_HZ]
    return np.array(
        [10 * np.log10(power[(freqs >= a) & (freqs < b)].sum() + 1e-20) for a, b in edges]
    )


@pytest.mark.parametrize("name", NAMES)
def test_the_voice_is_not_duller_than_the_eq_asked_for(results, name):
    file, out, result = results[name]
    rate, lines = file.info.sample_rate_hz, truth_of(name)["lines"]
    source = file.read(0, file.info.length_samples)
    before, after = thirds_db(source, rate, lines), thirds_db(out, rate, lines)
    tone = result.room_tone
    noise = thirds_db(source, rate, [[tone.start_s, tone.end_s]])
    [eq] = [c.step for c in read_recipe(STARTER).chain if isinstance(c.step, Eq)]
    # Of the voice alone: the noise's going is no dullness, and where it is near nothing follows.
    audible = before > noise + 10
    voice = 10 * np.log10(10 ** (before / 10) - 10 ** (noise / 10))
    moved = after - voice - eq.response_db(THIRDS_HZ, rate)
    moved = moved[audible] - np.median(moved[audible])
    assert audible.sum() >= 12
    assert np.abs(moved).max() <= 1.5
