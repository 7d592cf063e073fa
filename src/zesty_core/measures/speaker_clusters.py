"""Stretches of speech merged two by two into groups that sound alike.

Bayesian information criterion of one Gaussian for both against one for each: Chen & Gopalakrishnan,
DARPA Broadcast News Workshop, 1998. Small groups lean on the spread of all.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

#: So many stretches at most are compared with each other; in longer recordings every nth, and the
#: others join the group they fit best.
_MOST_COMPARED = 400
#: A group of so many frames relies on itself as much as on all.
_RELIES_FRAMES = 20.0
_FLOOR_SHARE = 0.02


@dataclass(frozen=True)
class Groups:
    """``labels[k]`` gives the group of each stretch where there are k + 1; ``costs[k]`` is what it
    cost to merge k + 2 groups into k + 1."""

    labels: tuple[NDArray[np.int64], ...]
    costs: NDArray[np.float64]

    def at(self, number: int) -> NDArray[np.int64]:
        """Group of each stretch where there are so many, or as many as there are."""
        return self.labels[min(number, len(self.labels)) - 1]


class _Sums:
    """Sums of groups of frames: their number, values, and products of values."""

    def __init__(
        self, number: NDArray[np.float64], first: NDArray[np.float64], second: NDArray[np.float64]
    ) -> None:
        self.number, self.first, self.second = number, first, second

    @classmethod
    def of(cls, values: NDArray[np.float64], stretches: Sequence[tuple[int, int]]) -> _Sums:
        pieces = [values[start:stop] for start, stop in stretches]
        return cls(
            np.array([len(piece) for piece in pieces], float),
            np.array([piece.sum(axis=0) for piece in pieces]),
            np.array([piece.T @ piece for piece in pieces]),
        )

    def rows(self, rows: Sequence[int] | NDArray[np.intp] | NDArray[np.bool_]) -> _Sums:
        return _Sums(self.number[rows], self.first[rows], self.second[rows])

    def plus(self, other: _Sums) -> _Sums:
        return _Sums(
            self.number + other.number, self.first + other.first, self.second + other.second
        )

    def misfit(self, usual: NDArray[np.float64]) -> NDArray[np.float64]:
        """Half of frames times the log-determinant of their spread."""
        mean = self.first / self.number[:, None]
        spread = self.second / self.number[:, None, None] - mean[:, :, None] * mean[:, None, :]
        lean = (_RELIES_FRAMES / (self.number + _RELIES_FRAMES))[:, None, None]
        spread = spread * (1.0 - lean) + (lean + _FLOOR_SHARE) * np.diag(usual)
        return np.asarray(0.5 * self.number * np.linalg.slogdet(spread)[1])


def merged_down(
    values: NDArray[np.float64], stretches: Sequence[tuple[int, int]], most: int
) -> Groups:
    """Merge until one group is left.

    Parameters
    ----------
    values : array, shape (frames, features)
    stretches : sequence of (first, stop)
        In frames; at least one.
    most : int
        Groups are kept from so many on.

    Returns
    -------
    groups : Groups
    """
    step = -(-len(stretches) // _MOST_COMPARED)
    compared = list(range(0, len(stretches), step))
    sums = _Sums.of(values, stretches)
    inside = np.concatenate([values[start:stop] for start, stop in stretches])
    usual = inside.var(axis=0) + 1e-9
    labels, costs = _merge(sums.rows(compared), usual, most)
    if step > 1:
        labels = [_joined(sums, sums.rows(compared), own, usual) for own in labels]
    return Groups(tuple(labels), np.array(costs))


def _merge(
    sums: _Sums, usual: NDArray[np.float64], most: int
) -> tuple[list[NDArray[np.int64]], list[float]]:
    count, features = sums.first.shape
    # What the parameters that are saved would be worth.
    saved = 0.5 * (features + features * (features + 1) / 2.0)
    misfits = sums.misfit(usual)
    costs = np.full((count, count), np.inf)

    def compare(one: int, others: NDArray[np.int64]) -> None:
        both = sums.rows([one] * len(others)).plus(sums.rows(others))
        cost = both.misfit(usual) - misfits[one] - misfits[others] - saved * np.log(both.number)
        costs[np.minimum(one, others), np.maximum(one, others)] = cost

    for one in range(count - 1):
        compare(one, np.arange(one + 1, count))
    of = np.arange(count)
    kept: list[NDArray[np.int64]] = []
    paid: list[float] = []
    for left in range(count, 0, -1):
        if left <= most:
            kept.append(np.unique(of, return_inverse=True)[1])
        if left == 1:
            break
        one, other = divmod(int(np.argmin(costs)), count)
        if left <= most:
            paid.append(float(costs[one, other]))
        of[of == other] = one
        for whole in (sums.number, sums.first, sums.second):
            whole[one] += whole[other]
        misfits[one] = sums.rows([one]).misfit(usual)[0]
        costs[other], costs[:, other] = np.inf, np.inf
        costs[one], costs[:, one] = np.inf, np.inf
        compare(one, np.setdiff1d(np.unique(of), [one]))
    return kept[::-1], paid[::-1]


def _joined(
    every: _Sums, compared: _Sums, own: NDArray[np.int64], usual: NDArray[np.float64]
) -> NDArray[np.int64]:
    """Group of every stretch: that whose misfit it adds least to."""
    added = []
    for group in range(int(own.max()) + 1):
        rows = own == group
        whole = _Sums(
            compared.number[rows].sum(keepdims=True),
            compared.first[rows].sum(axis=0, keepdims=True),
            compared.second[rows].sum(axis=0, keepdims=True),
        )
        many = whole.rows([0] * len(every.number))
        added.append(every.plus(many).misfit(usual) - whole.misfit(usual)[0])
    return np.asarray(np.argmin(added, axis=0))
