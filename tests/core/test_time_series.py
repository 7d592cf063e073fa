"""What a meter keeps of every hop, and runs in it."""

from __future__ import annotations

import numpy as np
import pytest

from zesty_core.dsp.runs import runs
from zesty_core.measures.time_series import TimeSeries


@pytest.mark.parametrize("pieces", [[], [0], [5, 3], [65_536], [65_535, 2, 200_000, 7]])
def test_a_course_is_all_that_was_appended(pieces):
    time_series, rng = TimeSeries(2, np.float32), np.random.default_rng(1)
    parts = [rng.standard_normal((2, length)) for length in pieces]
    for part in parts:
        time_series.append(part)
    expected = np.concatenate([np.empty((2, 0)), *parts], axis=1).astype(np.float32)
    assert time_series.hops == sum(pieces)
    assert time_series.row(0).dtype == np.float32
    assert np.array_equal([time_series.row(0), time_series.row(1)], expected)
    for first, stop in ((0, 0), (3, 8), (65_530, 65_540), (0, time_series.hops)):
        if stop <= time_series.hops:
            assert np.array_equal(time_series.between(first, stop), expected[:, first:stop])


@pytest.mark.parametrize(
    ("flags", "expected"),
    [
        ("", []),
        ("0", []),
        ("1", [[0, 1]]),
        ("111", [[0, 3]]),
        ("0110", [[1, 3]]),
        ("1001011", [[0, 1], [3, 4], [5, 7]]),
    ],
)
def test_runs_of_true_values(flags, expected):
    assert runs(np.array([f == "1" for f in flags], np.bool_)).tolist() == expected
