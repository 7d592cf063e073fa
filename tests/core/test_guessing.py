"""What picks are worth, against published tables and a reference library."""

from __future__ import annotations

import pytest
from scipy import stats

from zesty_core.compare.guessing import chance_of_guessing, verdict
from zesty_core.foundation.errors import BadInput

# Two-sided probabilities of the sign test, from the binomial table in Conover, Practical
# Nonparametric Statistics, 3rd edition, table A3 (values from memory, doubled tails).
TABLE = [
    (5, 5, 0.0625),
    (6, 6, 0.03125),
    (8, 7, 0.0703),
    (10, 8, 0.1094),
    (10, 9, 0.0215),
    (12, 10, 0.0386),
    (20, 15, 0.0414),
]


@pytest.mark.parametrize(("rounds", "picked", "chance"), TABLE)
def test_chances_are_those_of_the_published_table(rounds, picked, chance):
    assert chance_of_guessing(rounds, picked) == pytest.approx(chance, abs=6e-5)


@pytest.mark.parametrize("rounds", [1, 5, 13, 20])
def test_chances_agree_with_a_reference_library(rounds):
    for picked in range(rounds + 1):
        expected = stats.binomtest(picked, rounds, 0.5).pvalue
        assert chance_of_guessing(rounds, picked) == pytest.approx(expected, abs=1e-12)


@pytest.mark.parametrize(("rounds", "picked"), [(0, 0), (5, 6), (5, -1)])
def test_counts_that_cannot_be(rounds, picked):
    with pytest.raises(BadInput, match="picked: must be from 0 to"):
        chance_of_guessing(rounds, picked)


@pytest.mark.parametrize(
    ("rounds", "picked", "words"),
    [
        (
            10,
            9,
            "After was picked 9 times of 10. Guessing leans so far in 2.1 % of cases: "
            "a clear preference.",
        ),
        (
            10,
            1,
            "Before was picked 9 times of 10. Guessing leans so far in 2.1 % of cases: "
            "a clear preference.",
        ),
        (
            10,
            7,
            "After was picked 7 times of 10. Guessing leans so far in 34 % of cases: "
            "this may be chance.",
        ),
        (6, 3, "After and before were picked equally often, 3 times of 6."),
    ],
)
def test_the_verdict_is_honest(rounds, picked, words):
    assert verdict(rounds, picked) == words


@pytest.mark.parametrize(
    ("rounds", "picked", "words"),
    [
        (20, 15, "a clear preference"),  # 4.1 % by chance
        (8, 7, "this may be chance"),  # 7.0 %
        (6, 6, "a clear preference"),  # 3.1 %
        (5, 5, "this may be chance"),  # 6.3 %
    ],
)
def test_clear_is_rarer_than_one_in_twenty(rounds, picked, words):
    assert verdict(rounds, picked).endswith(f": {words}.")
