"""Clicks, crackle and lip smacks: short sounds whose prediction error stands over both their sides.

Prediction error as the place to look: Vaseghi & Rayner, IEE Proc. I 137(1), 1990; Godsill & Rayner,
"Digital Audio Restoration", Springer 1998. Voices have errors of their own, at every glottal pulse and
at the release of "t" and "k"; a click has none of its size on either side, and the sound goes on behind
it as it was before. Limits were set on recorded voices into
which clicks had been put.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.fixed_hops import bin_samples, hop_samples
from zesty_core.dsp.prediction import prediction_error

Samples = NDArray[np.float64]

#: Lengths of what is looked for, in bins, and how far each must stand over its sides, in dB.
_LENGTHS = ((1, 10.0), (4, 9.0), (12, 8.5), (32, 8.5), (80, 9.0))
_SIDE_BINS, _LONGEST_BINS = 100, 80
#: Around a click the sound goes on as before. Around the release of a consonant it does not: so many
#: bins before and behind, levels may differ by so much, and beyond that more is asked, up to a limit
#: that is half for the shortest.
_BEFORE_BINS, _BEHIND_BINS = ((-240, -100), (-100, -12)), ((12, 48), (48, 160))
_STEADY_DB, _MOST_MORE_DB, _SHORT_BINS = 8.0, 10.0, 4
#: Where the sound itself is compared, it must stand out so much further.
_PLAIN_DB = 6.0
#: Parts of one click lie no further from each other.
_APART_BINS = 4
#: A click ends where its error falls to so many times what is usual around it, or to so much of the
#: most that is there.
_ENDS_TIMES, _ENDS_SHARE = 2.0, 0.3
_NOTHING = 1e-12
#: Below this the sound is no sound.
_SILENT_DBFS = -80.0


@dataclass(frozen=True)
class Click:
    """First and last sample but one, and by how many dB it stands over its sides."""

    start: int
    stop: int
    over_db: float


def find_clicks(sound: Samples, sample_rate_hz: int, stricter_db: float) -> list[Click]:
    """Clicks in a sound, in order.

    Parameters
    ----------
    sound : array, shape (n,)
        Begins on a hop. What lies within 130 ms of its ends is not to be relied on.
    sample_rate_hz : int
    stricter_db : float
        Clicks must stand so much further over their sides than usual.
    """
    from scipy.ndimage import maximum_filter1d

    samples = bin_samples(sample_rate_hz)
    order = min(32, 8 + sample_rate_hz // 3000)
    bins = len(sound) // samples
    error = prediction_error(sound, hop_samples(sample_rate_hz), order)
    errors = np.square(error[: bins * samples]).reshape(bins, samples).sum(axis=1)
    powers = np.square(sound[: bins * samples]).reshape(bins, samples).mean(axis=1)
    # A model that is fitted to a strong click foretells it, and makes much of what lies beside it.
    plain = np.diff(sound[: bins * samples], prepend=sound[:1])
    plain_energies = np.square(plain).reshape(bins, samples).sum(axis=1)
    found: list[tuple[float, int, int]] = []
    for length, least_db in _LENGTHS:
        over_db = np.maximum(
            _over_sides_db(errors, length), _over_sides_db(plain_energies, length) - _PLAIN_DB
        )
        highest = over_db >= maximum_filter1d(over_db, 2 * length + 5)
        for first in np.flatnonzero(highest & (over_db > least_db + stricter_db)):
            beyond_db = float(over_db[first]) - least_db - stricter_db
            if beyond_db > _unsteady_db(powers, int(first), int(first) + length):
                found.append((float(over_db[first]), int(first), length))
    return [
        Click(a * samples, b * samples, over_db)
        for a, b, over_db in _apart(found, errors, powers)
        if 10.0 * np.log10(powers[a:b].max() + _NOTHING) > _SILENT_DBFS
    ]


def _over_sides_db(errors: Samples, length: int) -> Samples:
    """By how much the energy from each bin on stands over that of any such stretch at its sides."""
    from scipy.ndimage import maximum_filter1d

    sums = np.concatenate([[0.0], np.cumsum(errors)])
    energy = np.maximum(sums[length:] - sums[:-length], 0.0)
    gap = max(1, length // 4)
    width = _SIDE_BINS - gap
    highest = maximum_filter1d(energy, width, mode="nearest")
    at, last = np.arange(len(energy)), len(energy) - 1
    away = length + gap + width // 2
    sides = np.maximum(highest[np.clip(at - away, 0, last)], highest[np.clip(at + away, 0, last)])
    return np.asarray(10.0 * np.log10((energy + _NOTHING) / (sides + _NOTHING)))


def _unsteady_db(powers: Samples, first: int, stop: int) -> float:
    """How much more is asked of what may be a consonant's release: voice, silence, burst, voice."""
    spans = [(first + a, first + b) for a, b in _BEFORE_BINS]
    spans += [(stop + a, stop + b) for a, b in _BEHIND_BINS]
    inside = [powers[max(0, a) : b].mean() for a, b in spans if b > 0 and a < len(powers)]
    levels_db = 10.0 * np.log10(np.array(inside) + _NOTHING)
    # No release is over within a millisecond.
    most_db = _MOST_MORE_DB / 2.0 if stop - first <= _SHORT_BINS else _MOST_MORE_DB
    return float(np.clip(np.ptp(levels_db) - _STEADY_DB, 0.0, most_db))


def _apart(
    found: list[tuple[float, int, int]], errors: Samples, powers: Samples
) -> list[tuple[int, int, float]]:
    """The clearest of those that overlap, each as long as it sounds."""
    taken: list[tuple[int, int, float]] = []
    for over_db, first, length in sorted(found, reverse=True):
        if any(first <= b + _APART_BINS and first + length >= a - _APART_BINS for a, b, _ in taken):
            continue
        extent = _extent(errors, powers, first, first + length)
        # What does not end in time is no click.
        if extent is not None and extent[1] - extent[0] < _LONGEST_BINS + 2:
            taken.append((*extent, over_db))
    return sorted(taken)


def _extent(errors: Samples, powers: Samples, first: int, stop: int) -> tuple[int, int] | None:
    """From its strongest bin to where neither its error nor its sound stands out any more."""
    behind, last = (
        stop + _LONGEST_BINS,
        len(errors),
    )  # its own end is no measure of its surroundings
    left = np.arange(max(0, first - _APART_BINS - _SIDE_BINS), max(0, first - _APART_BINS))
    sides = np.concatenate([left, np.arange(min(behind, last), min(behind + _SIDE_BINS, last))])
    if not len(sides):
        return None
    error, power = errors[sides], powers[sides]
    quiet = max(_ENDS_TIMES * float(np.median(error)), _ENDS_SHARE * float(error.max()))
    sounds = (errors > quiet) | (powers > _ENDS_TIMES * float(power.max()))
    a = first + int(np.argmax(errors[first:stop]))
    b = a + 1
    while b < len(errors) and sounds[b : b + _APART_BINS].any() and b - a < _LONGEST_BINS:
        b += 1
    while a > 0 and sounds[max(0, a - _APART_BINS) : a].any() and b - a < _LONGEST_BINS:
        a -= 1
    return max(0, a - 1), min(len(errors), b + 1)
