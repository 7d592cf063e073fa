"""Warbling is reported where it is heard."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.signal import butter, sosfilt

from tests.made_sound import RATE, noise, sine
from zesty_core.measures.warble import warble_ratio

LOW = sosfilt(butter(8, 1500, fs=RATE, output="sos"), noise(-40, 2))
HIGH = butter(8, 8000, "highpass", fs=RATE, output="sos")


def blips(level_dbfs):
    """Bursts high up, a twentieth of a second each, one in ten."""
    on = np.arange(2 * RATE) % (RATE // 2) < RATE // 20
    return sosfilt(HIGH, noise(level_dbfs, 2, seed=5)) * on


@pytest.mark.parametrize(
    ("room", "left", "least", "most"),
    [
        pytest.param(LOW, 0.1 * LOW, 0.99, 1.01, id="only turned down"),
        pytest.param(LOW, 0.1 * LOW + blips(-60), 2, 99, id="left over, heard"),
        pytest.param(LOW, 0.1 * LOW + blips(-140), 0.99, 1.01, id="left over, unheard"),
        pytest.param(
            noise(-70, 2) + sine(-30, 2, 50),
            0.1 * noise(-70, 2) + sine(-50, 2, 50) + blips(-75),
            1.5,
            99,
            id="beside a hum",
        ),
    ],
)
def test_what_is_left_over_counts_where_it_is_heard(room, left, least, most):
    ratio = warble_ratio(room.astype(np.float32), left.astype(np.float32), RATE)
    assert least <= ratio <= most


@pytest.mark.parametrize("sound", [np.zeros((1, RATE), np.float32), noise(-40, 0.1)])
def test_silence_and_too_little_tell_nothing(sound):
    assert warble_ratio(sound, sound, RATE) is None
