"""Figures along a chain: what the level path shows is what a meter says at that point."""

from __future__ import annotations

from dataclasses import astuple

import numpy as np
import pytest

from tests.made_sound import RATE, level_db, noise, spoken
from zesty_core.chain.recipe import chain_from_json
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.signal import ArraySource, Span
from zesty_core.measures.full_meter import FullMeter
from zesty_core.measures.stream import measure

STEPS = [
    {"type": "normalize", "params": {"target_db": -6}},
    {"type": "noise_reduction"},
    {"type": "eq", "params": {"bands": [{"type": "high_pass", "freq_hz": 90}]}},
    {"type": "compressor", "params": {"threshold_db": -24}},
    {"type": "gain", "params": {"gain_db": 2}},
    {"type": "limiter", "params": {"ceiling_dbtp": -3}},
    {"type": "loudness", "params": {"target": -20}},
]
FOLLOWING = {"type": "gate", "params": {"follow_voice": True, "threshold_db": -20}}


def take(channels=1):
    lead = np.zeros((channels, 2 * RATE), np.float32)
    voice = np.concatenate([lead, spoken(5, channels=channels)], axis=1)
    return voice + noise(-58, 7, channels=channels)


def run(sound, steps, progress=str):
    out, chain = [], chain_from_json(steps)
    result = run_chain(ArraySource(sound, RATE), chain, out.append, progress=progress)
    return np.concatenate(out, axis=1), result


def measured(sound, span):
    source = ArraySource(sound, RATE)
    return measure(source.blocks(), source.info, span)


@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize("last", range(1, len(STEPS) + 1))
def test_levels_after_each_step_are_those_of_the_sound_there(channels, last):
    sound = take(channels)
    _, whole = run(sound, STEPS)
    here, _ = run(sound, STEPS[:last])
    point = whole.points[last - 1]
    expected = measured(here, whole.room_tone).levels
    assert point.levels.true_peak_dbtp == pytest.approx(expected.true_peak_dbtp, abs=0.02)
    assert point.levels.voice_level_dbfs == pytest.approx(expected.voice_level_dbfs, abs=0.02)
    assert point.levels.noise_floor_dbfs == pytest.approx(expected.noise_floor_dbfs, abs=0.1)


FIGURES = (
    "sample_peak_dbfs", "true_peak_dbtp", "rms_dbfs", "crest_db", "integrated_lufs",
    "momentary_max_lufs", "short_term_max_lufs", "loudness_range_lu", "voice_level_dbfs",
    "noise_floor_dbfs", "clearance_db",
)  # fmt: skip


def test_measures_after_are_those_of_what_came_out():
    out, result = run(take(), STEPS)
    expected = measured(out, result.room_tone)
    for figure in FIGURES:
        assert getattr(result.after, figure) == pytest.approx(getattr(expected, figure), abs=0.05)


@pytest.mark.parametrize("gain_db", [-9.0, 5.0])
def test_measures_moved_by_a_gain_are_those_of_the_louder_sound(gain_db):
    sound = take()
    moved = measured(sound, None).shifted(gain_db)
    louder = measured((sound * 10 ** (gain_db / 20)).astype(np.float32), None)
    for figure in FIGURES:
        assert getattr(moved, figure) == pytest.approx(getattr(louder, figure), abs=0.02)
    assert moved.spectrum.power == pytest.approx(louder.spectrum.power, rel=1e-3)
    first, other = moved.speech_events.phrases[0], louder.speech_events.phrases[0]
    assert (first.start_s, first.level_dbfs) == pytest.approx(
        (other.start_s, other.level_dbfs), abs=0.02
    )


@pytest.mark.parametrize("channels", [1, 2])
def test_measures_without_an_offset_are_those_of_the_centred_sound(channels):
    offsets = (0.009, -0.004)[:channels]
    sound = take(channels)
    riding = sound + np.array(offsets, np.float32)[:, None]
    moved, centred = measured(riding, None).centred(offsets), measured(sound, None)
    for figure in FIGURES:
        assert getattr(moved, figure) == pytest.approx(getattr(centred, figure), abs=0.02)
    assert moved.dc_offset == pytest.approx(centred.dc_offset, abs=1e-6)
    now, expected = moved.spectrum.power, centred.spectrum.power
    assert now[2:] == pytest.approx(expected[2:], rel=1e-2)
    # Next to the offset, under any band of the report.
    assert now[:2] == pytest.approx(expected[:2], abs=1e-7)
    if channels == 2:
        for now, expected in zip(astuple(moved.sides), astuple(centred.sides), strict=True):
            assert now == pytest.approx(expected, abs=0.02)


def test_a_sound_smaller_than_its_offset_is_measured_instead():
    riding = np.float32(0.005) + np.float32(0.02) * take()
    assert np.abs(riding - 0.005).max() < 0.01
    assert measured(riding, None).centred((0.005,)) is None


def test_a_step_behind_normalize_knows_the_level_without_another_pass():
    riding = take() + np.float32(0.005)
    told = []
    _, result = run(riding, [{"type": "normalize"}, FOLLOWING], told.append)
    _, centred = run(take(), [{"type": "normalize"}, FOLLOWING])
    assert {progress.doing for progress in told} == {"measuring", "Normalize, Gate", "done"}
    gates = [r.points[1].report["threshold_dbfs"] for r in (result, centred)]
    assert gates[0] == pytest.approx(gates[1], abs=0.02)


def test_a_gain_on_something_too_quiet_is_measured_instead():
    assert measured(take() * np.float32(0.01), None).shifted(-10.0) is None


def test_a_gain_alone_needs_no_meter_and_tells_the_truth():
    out, result = run(take(), [{"type": "gain", "params": {"gain_db": -4}}])
    expected = measured(out, result.room_tone)
    assert result.after.integrated_lufs == pytest.approx(expected.integrated_lufs, abs=0.02)
    assert result.after.true_peak_dbtp == pytest.approx(expected.true_peak_dbtp, abs=0.02)


def test_only_wanted_parts_are_measured():
    source = ArraySource(take(), RATE)
    meter = FullMeter(source.info, parts=frozenset({"speech", "noise"}))
    for block in source.blocks():
        meter.push(block)
    measures = meter.finish()
    assert measures.voice_level_dbfs is not None
    assert measures.integrated_lufs is None
    assert measures.hum is None
    assert measures.speech_events is None
    assert not measures.is_full


@pytest.mark.parametrize("enabled", [True, False])
def test_a_step_that_is_off_repeats_the_levels_before_it(enabled):
    steps = [STEPS[0], {"type": "gain", "enabled": enabled, "params": {"gain_db": -6}}]
    out, result = run(take(), steps)
    change = result.points[1].levels.voice_level_dbfs - result.points[0].levels.voice_level_dbfs
    assert change == pytest.approx(-6 if enabled else 0, abs=0.01)
    assert result.points[1].enabled is enabled
    assert level_db(out) == pytest.approx(result.after.rms_dbfs, abs=0.02)


def test_the_receipt_is_plain_json_without_inner_facts():
    _, result = run(take(), STEPS)
    for point in result.points:
        data = point.as_json()
        assert set(data) == {"type", "enabled", "levels", "report"}
        assert None not in data["report"].values()
    assert result.room_tone == Span(result.room_tone.start_s, result.room_tone.end_s)
