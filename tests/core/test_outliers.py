"""Files of a set that needed something else than the others."""

from __future__ import annotations

import pytest

from zesty_core.delivery.outliers import outliers


def run(gain_lu, clearance_db=10.0):
    before = {"integrated_lufs": -30.0, "clearance_db": 20.0}
    after = {"integrated_lufs": -30.0 + gain_lu, "clearance_db": 20.0 + clearance_db}
    return before, after


@pytest.mark.parametrize(
    ("runs", "words"),
    [
        ([run(12), run(13), run(20.2)], [[], [], ["needed 7.2 dB more gain than is usual here"]]),
        ([run(12), run(13), run(2)], [[], [], ["needed 10.0 dB less gain than is usual here"]]),
        (
            [run(12), run(12), run(12, 2)],
            [[], [], ["gained 8.0 dB less clearance than is usual here"]],
        ),
        ([run(12), run(30)], [[], []]),
        (
            [run(12), None, run(12), run(20)],
            [[], [], [], ["needed 8.0 dB more gain than is usual here"]],
        ),
        ([({"integrated_lufs": None}, {}), run(1), run(1)], [[], [], []]),
    ],
)
def test_what_is_far_from_the_middle_of_the_set_is_told(runs, words):
    assert outliers(runs) == words
