"""What picks between two sides are worth: how often coin tosses would lean as far.

The sign test, two-sided, since nobody said beforehand which side would win: Conover, *Practical
Nonparametric Statistics*, 3rd edition, section 3.4; exact binomial sums.
"""

from __future__ import annotations

import math

from zesty_core.foundation.errors import BadInput

LEAST_ROUNDS, MOST_ROUNDS = 5, 20
#: Rarer by chance than this, a result is called clear (common practice).
CLEAR = 0.05


def chance_of_guessing(rounds: int, picked: int) -> float:
    """Probability that guessing leans at least as far to either side as ``picked`` of ``rounds``.

    Raises :class:`BadInput` for counts that cannot be.
    """
    if rounds < 1 or not 0 <= picked <= rounds:
        raise BadInput(f"picked: must be from 0 to {rounds}, got {picked}", path="picked")
    most = max(picked, rounds - picked)
    ways = sum(math.comb(rounds, k) for k in range(most, rounds + 1))
    return min(1.0, 2.0 * ways / float(1 << rounds))


def verdict(rounds: int, picked_after: int) -> str:
    """The result in plain words, with its count and what it is worth."""
    chance = chance_of_guessing(rounds, picked_after)
    if 2 * picked_after == rounds:
        return f"After and before were picked equally often, {picked_after} times of {rounds}."
    side, count = (
        ("After", picked_after) if 2 * picked_after > rounds else ("Before", rounds - picked_after)
    )
    percent = f"{100 * chance:.1f}" if chance < 0.1 else f"{100 * chance:.0f}"
    told = f"{side} was picked {count} times of {rounds}. Guessing leans so far in {percent} % of cases"
    return f"{told}: {'a clear preference' if chance <= CLEAR else 'this may be chance'}."
