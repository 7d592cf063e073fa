"""The runner: exact where nothing changes, the same in any blocks, honest about odd input."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.made_sound import RATE, noise, sine, spoken
from zesty_core.chain.pass_plan import planned_passes_ns
from zesty_core.chain.recipe import chain_from_json
from zesty_core.chain.runner import Progress, run_chain
from zesty_core.dsp import spectral
from zesty_core.foundation.errors import BadInput, Cancelled
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import ArraySource, Span
from zesty_core.runtime.cores import kept_to
from zesty_core.runtime.pipeline import Pipeline
from zesty_core.steps.registry import STEP_TYPES

#: Settings of steps that their defaults do not show at work.
SETTINGS = {
    "normalize": {"peak": "true"},
    "gate": {"follow_voice": True, "threshold_db": -25},
    "eq": {"bands": [{"type": "high_pass", "freq_hz": 80}, {"gain_db": 2}]},
    "compressor": {"follow_voice": True, "threshold_db": 3},
    "house_voice": {
        "tone": [{"freq_hz": f, "level_db": db} for f, db in ((100, 3), (1000, 0), (8000, -9))]
    },
    "loudness": {"measure": "voice", "target": -20},
    "gain": {"gain_db": -1},
}
#: Every kind of step, in the usual order.
FULL = [{"type": kind, "params": SETTINGS.get(kind, {})} for kind in STEP_TYPES]
NEUTRAL = [
    {"type": "normalize", "enabled": False},
    {"type": "noise_reduction", "params": {"depth_db": 0}},
    {"type": "eq", "params": {"bands": [{"gain_db": 0}, {"gain_db": 5, "enabled": False}]}},
    {"type": "compressor", "params": {"ratio": 1}},
    {"type": "compressor", "params": {"mix": 0}},
    {"type": "gate", "params": {"floor_db": 0}},
    {"type": "gate", "params": {"ratio": 1}},
    {"type": "de_esser", "params": {"max_reduction_db": 0}},
    {"type": "multiband", "params": {"crossovers_hz": [500], "bands": [{"mix": 0}, {"mix": 0}]}},
    {"type": "saturation", "params": {"drive_db": 0}},
    {"type": "ambience", "params": {"mix": 0}},
    {"type": "gain"},
]


def run(sound, steps, rate=RATE, **more):
    out = []
    result = run_chain(ArraySource(sound, rate), chain_from_json(steps), out.append, **more)
    return np.concatenate(out, axis=1), result


def take(channels=1):
    voice = np.concatenate(
        [np.zeros((channels, RATE), np.float32), spoken(5, channels=channels)], axis=1
    )
    return voice + noise(-60, 6, channels=channels)


def test_neutral_and_switched_off_steps_return_the_input_bit_for_bit():
    sound = take(2)
    out, result = run(sound, NEUTRAL)
    assert np.array_equal(out, sound)
    assert len(result.points) == len(NEUTRAL)
    assert {p.levels for p in result.points} == {result.before.levels}


def test_block_sizes_give_the_same_bytes():
    sound = take(2)
    whole, before = run(sound, FULL)
    for block in (1_000, 4_096, 200_000):
        out, result = run(sound, FULL, block_samples=block)
        assert out.tobytes() == whole.tobytes()
        assert result.after.as_json() == before.after.as_json()


def test_the_number_of_workers_changes_nothing(monkeypatch):
    results = []
    for count in (1, 3):
        monkeypatch.setattr(spectral, "_pool", ThreadPoolExecutor(count))
        with kept_to(count):
            results.append(run(take(), FULL)[0].tobytes())
    assert results[0] == results[1]


def test_the_same_run_twice_gives_the_same_bytes():
    assert run(take(), FULL)[0].tobytes() == run(take(), FULL)[0].tobytes()


ODD = {
    "one sample": np.full((1, 1), 0.1, np.float32),
    "two samples": np.full((2, 2), -0.3, np.float32),
    "a tenth of a second": noise(-20, 0.1),
    "silence": np.zeros((1, RATE), np.float32),
    "full scale": sine(0, 2),
    "far above full scale": 30 * spoken(2),
    "very quiet": (noise(-115, 2)),
    "DC only": np.full((1, RATE), 0.2, np.float32),
    "digital silence between words": np.concatenate(
        [spoken(2), np.zeros((1, RATE), np.float32)], axis=1
    ),
}


@pytest.mark.parametrize("name", ODD)
@pytest.mark.parametrize("rate", [8_000, 44_100, 192_000])
def test_odd_input_comes_out_finite_and_of_the_same_length(name, rate):
    out, result = run(ODD[name], FULL, rate)
    assert out.shape == ODD[name].shape
    assert np.isfinite(out).all()
    result.after.as_json()


@settings(max_examples=15, deadline=None)
@given(
    gain_db=st.floats(-20, 20),
    length=st.integers(1, 40_000),
    block=st.integers(500, 20_000),
)
def test_gain_commutes_with_linear_steps(gain_db, length, block):
    sound = noise(-30, 1)[:, :length]
    eq = {"type": "eq", "params": {"bands": [{"freq_hz": 300, "gain_db": -6}]}}
    gain = {"type": "gain", "params": {"gain_db": gain_db}}
    a, _ = run(sound, [eq, gain], block_samples=block)
    b, _ = run(sound, [gain, eq], block_samples=block)
    assert np.abs(a - b).max() <= 1e-5 * max(1.0, float(np.abs(a).max()))


@pytest.mark.parametrize(
    ("settings_", "expected_db", "kind", "size"),
    [
        ({"target_db": -3}, -3.0, "sample_peak_dbfs", 0.3),
        # Smaller than the offset it rides on, so that it never crosses the middle line.
        ({"target_db": -3}, -3.0, "sample_peak_dbfs", 0.01),
        ({"target_db": -1, "peak": "true"}, -1.0, "true_peak_dbtp", 0.3),
    ],
)
def test_normalize_is_exact(settings_, expected_db, kind, size):
    sound = take() * np.float32(size) + np.float32(0.02)
    _, result = run(sound, [{"type": "normalize", "params": settings_}])
    assert getattr(result.after, kind) == pytest.approx(expected_db, abs=0.01)
    assert abs(result.after.dc_offset[0]) < 1e-6


@pytest.mark.parametrize(
    ("measure", "field", "target"),
    [
        ("lufs", "integrated_lufs", -24.0),
        ("rms", "rms_dbfs", -26.0),
        ("voice", "voice_level_dbfs", -25.0),
    ],
)
def test_loudness_reaches_its_target(measure, field, target):
    step = {"type": "loudness", "params": {"measure": measure, "target": target}}
    _, result = run(take(), [step])
    assert getattr(result.after, field) == pytest.approx(target, abs=0.1)


def test_loudness_stops_at_the_ceiling_and_says_what_is_missing():
    _, result = run(take(), [{"type": "loudness", "params": {"target": -6, "ceiling_dbtp": -1}}])
    assert result.after.true_peak_dbtp == pytest.approx(-1.0, abs=0.05)
    assert "under the target" in result.notes[0]
    assert result.points[0].report["missed_by_db"] > 1


def test_points_of_plain_gains_agree_with_a_meter():
    steps = [
        {"type": "normalize"},
        {"type": "gain", "params": {"gain_db": -7}},
        {"type": "limiter"},
    ]
    _, result = run(take(), steps)
    calculated, metered = result.points[1].levels, result.points[2].levels
    assert calculated.voice_level_dbfs == pytest.approx(metered.voice_level_dbfs, abs=0.1)
    assert calculated.noise_floor_dbfs == pytest.approx(metered.noise_floor_dbfs, abs=0.1)
    assert calculated.true_peak_dbtp == pytest.approx(metered.true_peak_dbtp, abs=0.05)


@pytest.mark.parametrize(
    "steps",
    [FULL, FULL[:3], FULL[:6], FULL[5:6], FULL[7:8], FULL[:1], FULL[9:]],
    ids=lambda steps: "+".join(step["type"] for step in steps),
)
@pytest.mark.parametrize("measured", [False, True])
def test_the_passes_are_those_that_the_time_left_is_told_from(steps, measured, monkeypatch):
    before = run(take(), [])[1].before if measured else None
    done = []
    whole = Pipeline.run
    monkeypatch.setattr(Pipeline, "run", lambda *given: (done.append(given), whole(*given)))
    run(take(), steps, before=before)
    assert len(done) == len(planned_passes_ns(chain_from_json(steps), measured))


def test_progress_rises_to_one_and_cancelling_stops():
    told: list[Progress] = []
    run(take(), FULL, progress=told.append)
    shares = [p.share for p in told]
    assert shares == sorted(shares)
    assert shares[-1] == 1.0
    with pytest.raises(Cancelled):
        run(take(), FULL, cancelled=lambda: len(told) > 0)


@pytest.mark.parametrize(("start_s", "end_s"), [(0.1, 0.12), (-1, 1), (2, 1), (5, 99)])
def test_room_tone_that_does_not_fit_is_refused(start_s, end_s):
    with pytest.raises(BadInput, match="room tone"):
        run(take(), FULL, room_tone=RoomTone(spans=(Span(start_s, end_s),)))
