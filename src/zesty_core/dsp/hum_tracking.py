"""A hum's partials, followed through a recording and taken out of it.

Each period of the hum is compared with its partials (complex demodulation, textbook). Over two seconds
the periods are added up, those in which little else sounds the most: first at the drift of the
fundamental that leaves the largest sums, then for level and phase of each partial (iteratively
reweighted least squares, Holland & Welsch, Commun. Stat. A6(9), 1977). What is no more than chance is
left alone.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.runtime.kernel import kernel

Complex = NDArray[np.complex128]

#: Half of the stretch that is added up, and how often that is done, in seconds.
REACH_S, EVERY_S = 1.0, 0.2
_MOST_DRIFT_HZ, _DRIFT_STEP_HZ = 0.5, 0.02
#: Drift is looked for in so many partials; higher ones turn too fast to be caught from afar.
_DRIFT_PARTIALS = 12
#: A partial goes where its power is so many times what chance gives, and in part from the lower.
_CHANCE, _SURE = 4.0, 16.0
#: Rounds of least squares with weights by how far each period is away, and what is never called far.
_ROUNDS, _CALM_SHARE = 4, 0.2
_NOTHING = 1e-20


class HumPeriods:
    """Compares periods with the partials of a fundamental at ``freq_hz``."""

    def __init__(self, freq_hz: float, partials: int, rate: int) -> None:
        self.freq_hz, self.partials, self.rate = freq_hz, partials, rate
        self.samples = round(rate / freq_hz)
        n = np.arange(self.samples)
        k = np.arange(1, partials + 1)
        self._carriers = np.exp(-2j * np.pi * freq_hz / rate * np.outer(n, k)) * (
            2.0 / self.samples
        )

    def compare(self, sound: NDArray[np.float64], first_period: int) -> Complex:
        """Sums of whole periods, shape (periods, partials); phases count from the signal's start."""
        periods = sound.reshape(-1, self.samples)
        begins = (first_period + np.arange(len(periods))) * self.samples
        turned = np.outer(begins, np.arange(1, self.partials + 1)) * (self.freq_hz / self.rate)
        around = periods - periods.mean(axis=1, keepdims=True)
        return np.asarray((around @ self._carriers) * np.exp(-2j * np.pi * (turned % 1.0)))


def tracked(
    sums: Complex, powers: NDArray[np.float64], times_s: NDArray[np.float64]
) -> tuple[float, Complex]:
    """Drift of the fundamental in Hz and the partials at time zero.

    Parameters
    ----------
    sums : array, shape (periods, partials)
        Of :meth:`HumPeriods.compare`.
    powers : array, shape (periods,)
        Of all that sounds in each period.
    times_s : array, shape (periods,)
        Of their middles, from the time that is asked for.

    Returns
    -------
    drift_hz : float
    partials : array, shape (partials,)
        Amplitude and phase; nearer to 0 the less certain they are.
    """
    shape = np.cos(0.5 * np.pi * np.clip(times_s / REACH_S, -1.0, 1.0)) ** 2
    weights = shape / (powers + _NOTHING)
    total = float(weights.sum())
    if total <= 0.0:
        return 0.0, np.zeros(sums.shape[1], complex)
    weights = weights / total
    drift_hz = _drift(sums[:, :_DRIFT_PARTIALS], weights, times_s)
    k = np.arange(1, sums.shape[1] + 1)
    turned = sums * np.exp(-2j * np.pi * drift_hz * np.outer(times_s, k))
    partials, own = weights @ turned, weights[:, None]
    away = np.square(np.abs(turned - partials))
    calm_at = round(_CALM_SHARE * (len(away) - 1))
    for _ in range(_ROUNDS):
        # A period in which the voice has a partial just there is far away, and counts little for it.
        calm = np.partition(away, calm_at, axis=0)[calm_at]
        own = shape[:, None] / (away + calm + _NOTHING)
        own = own / own.sum(axis=0)
        partials = (own * turned).sum(axis=0)
        away = np.square(np.abs(turned - partials))
    chance = (np.square(own) * away).sum(axis=0)
    times_chance = np.square(np.abs(partials)) / (chance + _NOTHING)
    return drift_hz, partials * np.clip((times_chance - _CHANCE) / (_SURE - _CHANCE), 0.0, 1.0)


def _drift(sums: Complex, weights: NDArray[np.float64], times_s: NDArray[np.float64]) -> float:
    """Where the sums of all partials are largest, by a grid and a parabola."""
    steps = round(_MOST_DRIFT_HZ / _DRIFT_STEP_HZ)
    drifts_hz = np.arange(-steps, steps + 1) * _DRIFT_STEP_HZ
    found = np.zeros(len(drifts_hz))
    # Partials count alike, whatever their level.
    levels = np.sqrt(weights @ np.square(np.abs(sums)) + _NOTHING)
    weighted = weights[:, None] * sums / levels
    once = np.exp(-2j * np.pi * np.outer(drifts_hz, times_s))
    turns = np.ones_like(once)
    for number in range(sums.shape[1]):
        turns *= once
        found += np.square(np.abs(turns @ weighted[:, number]))
    at = int(np.argmax(found))
    if 0 < at < len(found) - 1:
        before, peak, after = found[at - 1 : at + 2]
        bend = before - 2.0 * peak + after
        offset = 0.5 * (before - after) / bend if bend < 0.0 else 0.0
        return float(drifts_hz[at] + offset * _DRIFT_STEP_HZ)
    return float(drifts_hz[at])


@kernel
def add_partials(
    partials: Complex, freq_hz: float, start_phase: float, offset_s: float, rate: int,
    fades_in: bool, out: NDArray[np.float64],
) -> None:  # fmt: skip
    """Add a hum to ``out``, whose first sample lies ``offset_s`` from where the partials hold.

    ``start_phase`` is that of the fundamental there, in turns. It fades in or out over the length of
    ``out``, linearly, so that two add up to one.
    """
    samples = out.shape[0]
    for number in range(partials.shape[0]):
        if partials[number] == 0.0:
            continue
        turns = (number + 1) * (start_phase + freq_hz * offset_s)
        angle = 2.0 * np.pi * (turns - np.floor(turns))
        state = partials[number] * complex(np.cos(angle), np.sin(angle))
        step_angle = 2.0 * np.pi * (number + 1) * freq_hz / rate
        step = complex(np.cos(step_angle), np.sin(step_angle))
        for n in range(samples):
            share = n / samples if fades_in else 1.0 - n / samples
            out[n] += share * state.real
            state *= step
