"""A chain made for one recording: only what is needed, each step with its reason."""

from __future__ import annotations

import json

import numpy as np
import pytest

from tests.made_sound import RATE, noise, sine, spoken
from zesty_core.advice.proposal import propose_chain
from zesty_core.advice.proposal_check import correct_once
from zesty_core.chain.recipe import chain_from_json
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.signal import ArraySource, joined
from zesty_core.measures.stream import measure
from zesty_core.targets.starters import STARTERS, starter


def measured(sound, rate=RATE):
    source = ArraySource(sound.astype(np.float32), rate)
    return measure(source.blocks(), source.info)


def take(noise_dbfs=-75.0, **more):
    voice = spoken(12, RATE) * 10 ** (more.get("gain_db", 0.0) / 20)
    return voice + noise(noise_dbfs, 12, RATE)[:, : voice.shape[1]] + more.get("plus", 0.0)


def hum(dbfs):
    return sum(sine(dbfs, 12, 50.0 * k) for k in (1, 2, 3))


def types(proposal):
    return [proposed.entry.step.type for proposed in proposal.steps]


def of_type(proposal, kind):
    return next(proposed for proposed in proposal.steps if proposed.entry.step.type == kind)


def run(sound, proposal):
    out = []
    result = run_chain(ArraySource(sound.astype(np.float32), RATE), proposal.chain, out.append)
    return joined(out, len(sound)), result


def test_a_clean_take_gets_no_treatment():
    proposal = propose_chain(measured(take()))
    assert set(types(proposal)) <= {"normalize", "limiter", "loudness"}
    sound = take()
    out, result = run(sound, proposal)
    spectra = [np.abs(np.fft.rfft(x[0])) ** 2 for x in (sound, out)]
    freqs = np.fft.rfftfreq(sound.shape[1], 1 / RATE)
    change = [
        10 * np.log10(spectra[1][band].sum() / spectra[0][band].sum())
        for low in (100, 200, 400, 800, 1600, 3200)
        for band in [(freqs >= low) & (freqs < 2 * low)]
    ]
    assert max(change) - min(change) < 1.0
    assert result.after.integrated_lufs == pytest.approx(-19, abs=0.3)


@pytest.mark.parametrize(
    ("sound", "kind", "code"),
    [
        (take(noise_dbfs=-50), "noise_reduction", "low_clearance"),
        (take(plus=0.02), "normalize", "dc_offset"),
        (take(gain_db=-30, noise_dbfs=-105), "normalize", "too_low"),
        (take(plus=hum(-30)), "hum", "hum"),
    ],
)
def test_a_fault_is_named_and_mended_by_a_step_with_its_figure(sound, kind, code):
    step = of_type(propose_chain(measured(sound)), kind)
    assert code in step.mends
    assert all(any(c.isdigit() for c in reason) for reason in step.reasons)


@pytest.mark.parametrize("noise_dbfs", [-65, -60, -55, -50, -45])
def test_the_depth_follows_the_clearance(noise_dbfs):
    measures = measured(take(noise_dbfs))
    proposal = propose_chain(measures)
    if measures.clearance_db >= 45:
        assert "noise_reduction" not in types(proposal)
        return
    depth_db = of_type(proposal, "noise_reduction").entry.step.depth_db
    assert depth_db == pytest.approx(np.clip(60 - measures.clearance_db, 10, 25), abs=0.51)


def test_a_clipped_take_is_rebuilt_before_anything_else():
    clipped = np.clip(take(gain_db=20), -0.5, 0.5)
    proposal = propose_chain(measured(clipped))
    assert types(proposal)[0] == "declip"
    assert "clipped" in proposal.steps[0].mends


def test_uneven_phrases_are_brought_closer():
    parts = [
        spoken(3, RATE, seed=k) * 10 ** (gain / 20) for k, gain in enumerate((0, -12, 2, -10, 0))
    ]
    sound = np.concatenate(parts, axis=1)
    sound = sound + noise(-85, 16, RATE)[:, : sound.shape[1]]
    proposal = propose_chain(measured(sound))
    assert "level_jumps" in of_type(proposal, "leveller").mends
    assert "compressor" not in types(proposal)


@pytest.mark.parametrize("target", STARTERS, ids=lambda t: t.name)
def test_the_target_sets_level_ceiling_and_noise(target):
    proposal = propose_chain(measured(take(noise_dbfs=-62)), target)
    last = proposal.chain[-1].step
    name, bound = target.level
    assert last.type == "loudness"
    assert (last.measure, last.target) == (
        "lufs" if name == "integrated_lufs" else "rms",
        bound.middle,
    )
    assert last.ceiling_dbtp == target.ceiling_dbtp
    assert target.name in proposal.steps[-1].reasons[0]


def test_what_no_step_mends_is_said_beside_it():
    sound = take()
    sound = np.concatenate([sound, 0 * sound])
    proposal = propose_chain(measured(sound))
    assert any("Stereo, but" in note for note in proposal.notes)


def test_without_a_voice_nothing_is_proposed():
    proposal = propose_chain(measured(noise(-50, 6, RATE)))
    assert proposal.steps == ()
    assert "No voice" in proposal.notes[0]


def test_a_proposal_is_a_recipe():
    proposal = propose_chain(measured(take(noise_dbfs=-50, plus=hum(-40))))
    data = json.loads(json.dumps(proposal.as_json()))
    assert chain_from_json([step["step"] for step in data["steps"]]) == proposal.chain


def test_it_corrects_itself_once_by_what_came_of_it():
    target = starter("Audiobook chapter")
    proposal = propose_chain(measured(take(noise_dbfs=-48)), target)
    out, result = run(take(noise_dbfs=-48), proposal)
    reports = [dict(point.report) for point in result.points]
    at = types(proposal).index("noise_reduction")
    before_db = proposal.chain[at].step.depth_db
    noisy = measured(out + noise(-40, 12, RATE)[:, : out.shape[1]])
    correction = correct_once(proposal, reports, noisy.as_json(), target)
    assert correction.proposal.chain[at].step.depth_db == before_db + 5
    assert correction.words[0].startswith("Noise reduction: ")
    assert correction.words[0] in correction.proposal.steps[at].reasons
    clean = propose_chain(measured(take()))
    assert correct_once(clean, [{} for _ in clean.steps], measured(take()).as_json()).words == ()
