"""Follow the voice: the same recipe gives a take recorded lower the same treatment (ITU-T P.56)."""

from __future__ import annotations

import numpy as np
import pytest

from tests.made_sound import RATE, RECORDINGS, noise, spoken
from zesty_core.audio.reader import AudioFile
from zesty_core.chain.recipe import chain_from_json
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.signal import ArraySource

FOLLOWING = {
    "gate": {"follow_voice": True, "threshold_db": -25, "mode": "gate"},
    "gate as expander": {"type": "gate", "follow_voice": True, "threshold_db": -22},
    "de_esser": {"threshold_db": 4},
    "compressor": {"follow_voice": True, "threshold_db": 2, "quiet_guard_db": -24},
    "compressor, RMS": {
        "type": "compressor", "follow_voice": True, "threshold_db": -2, "detector": "rms",
        "quiet_guard_db": -24, "auto_release": True,
    },
    "multiband": {
        "bands": [
            {"follow_voice": True, "threshold_db": 0, "ratio": r, "quiet_guard_db": -30}
            for r in (2, 3, 2)
        ]
    },
    "saturation": {"drive_db": 6},
}  # fmt: skip
FIGURES = ("typical_reduction_db", "max_reduction_db", "makeup_db")


def step(name):
    params = dict(FOLLOWING[name])
    return {"type": params.pop("type", name), "params": params}


def treated(sound, steps):
    source = ArraySource(sound.astype(np.float32), RATE)
    return run_chain(source, chain_from_json(steps), lambda block: None)


def made_take():
    hiss = noise(-38, 8) * (np.sin(np.arange(8 * RATE) / RATE * 9) > 0.9)
    return np.concatenate([noise(-75, 2), spoken(8) + hiss + noise(-75, 8, seed=4)], axis=1)


@pytest.mark.parametrize("gain_db", [-12.0, 6.0])
@pytest.mark.parametrize("name", FOLLOWING)
def test_each_step_treats_every_level_alike(name, gain_db):
    sound = made_take()
    a = treated(sound, [step(name)])
    b = treated(sound * 10 ** (gain_db / 20), [step(name)])
    change = b.after.voice_level_dbfs - a.after.voice_level_dbfs
    assert change == pytest.approx(gain_db, abs=0.3)
    for figure in FIGURES:
        if figure in a.points[0].report:
            assert b.points[0].report[figure] == pytest.approx(a.points[0].report[figure], abs=0.3)


def test_a_whole_chain_on_a_home_recording_12_db_lower():
    file = AudioFile(RECORDINGS / "hide-guide-causeway.wav")
    sound = file.read(0, 20 * RATE)
    steps = [
        {"type": "noise_reduction"},
        step("gate as expander"),
        step("de_esser"),
        step("compressor"),
        {"type": "loudness", "params": {"measure": "voice", "target": -22}},
    ]
    a, b = treated(sound, steps), treated(sound * 10 ** (-12 / 20), steps)
    assert b.after.voice_level_dbfs == pytest.approx(a.after.voice_level_dbfs, abs=0.3)
    assert b.after.noise_floor_dbfs == pytest.approx(a.after.noise_floor_dbfs, abs=0.5)
    for one, other in zip(a.points, b.points, strict=True):
        for figure in FIGURES:
            if figure in one.report:
                assert other.report[figure] == pytest.approx(one.report[figure], abs=0.3)
