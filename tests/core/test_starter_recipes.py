"""The recipes to start from: sound on the demo recordings, right on any level, without advice."""

from __future__ import annotations

import numpy as np
import pytest

from tests.made_sound import RECORDINGS
from zesty_core.advice.chain import StepResult, chain_advice
from zesty_core.audio.reader import AudioFile
from zesty_core.chain.recipe import parse_recipe
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.signal import ArraySource
from zesty_core.starters import starter_documents

RECIPES = {name.removesuffix(".zesty.json"): text for name, text in starter_documents()}
FOR = {
    "close-microphone-narration": "letters-31-opening",
    "kitchen-table-podcast": "letters-31-warden",
    "e-learning-clip": "counting-lesson-3",
    "noisy-room-rescue": "hide-guide-saltmarsh",
    "audiobook-chapter": "hide-guide-causeway",
    "voice-for-video": "volunteer-desk",
}


def test_there_is_one_for_each_situation():
    assert set(RECIPES) == set(FOR)


@pytest.mark.parametrize("name", FOR)
def test_it_lands_on_its_level_and_nothing_is_to_be_advised(name):
    recipe = parse_recipe(RECIPES[name], name)
    result = run_chain(AudioFile(RECORDINGS / f"{FOR[name]}.wav"), recipe.chain, lambda block: None)
    last = recipe.chain[-1].step
    measure = {"lufs": "integrated_lufs", "rms": "rms_dbfs"}[last.measure]
    assert getattr(result.after, measure) == pytest.approx(last.target, abs=0.05)
    assert result.after.true_peak_dbtp <= last.ceiling_dbtp + 0.05
    # Clearer by at least what the noise reduction is deep, less a little.
    depth = next(c.step.depth_db for c in recipe.chain if c.step.type == "noise_reduction")
    assert result.after.clearance_db - result.before.clearance_db >= depth - 2
    results = [StepResult(p.levels, p.report) for p in result.points]
    assert chain_advice(recipe.chain, result.before.levels, results) == []
    assert result.notes == []


@pytest.mark.parametrize("name", ["noisy-room-rescue"])
def test_a_take_recorded_12_db_lower_gets_the_same_treatment(name):
    recipe = parse_recipe(RECIPES[name], name)
    file = AudioFile(RECORDINGS / f"{FOR[name]}.wav")
    sound = file.read(0, file.info.length_samples)
    rate = file.info.sample_rate_hz
    both = []
    for factor in (1.0, 10 ** (-12 / 20)):
        out: list[np.ndarray] = []
        run_chain(ArraySource(factor * sound, rate), recipe.chain, out.append)
        both.append(np.concatenate(out, axis=1))
    apart = np.sqrt(np.mean((both[0] - both[1]) ** 2) / np.mean(both[0] ** 2))
    assert 20 * np.log10(apart) < -40
