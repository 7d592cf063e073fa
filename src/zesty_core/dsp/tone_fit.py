"""Few plain EQ bands that come close to a wanted curve.

Matching pursuit (Mallat & Zhang, IEEE Trans. Signal Process. 41(12), 1993) over bells and shelves of
the Audio EQ Cookbook, whose gains are then fitted together by least squares (Gauss-Newton).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp import biquad

Curve = NDArray[np.float64]

#: Responses are taken at this rate; another bends them at the top alone.
_RATE = 96_000
_BELL_QS, _SHELF_Q = (0.6, 1.0, 1.8), 0.7
_LOW_SHELVES_HZ, _HIGH_SHELVES_HZ = (125.0, 200.0, 315.0, 500.0), (2000.0, 3150.0, 5000.0, 8000.0)
_TRIAL_DB = 3.0
#: Closer than this is close enough.
_CLOSE_DB, _LEAST_GAIN_DB = 0.4, 0.3
#: A boost may lift what it must not by so little.
_SPILL_DB = 0.2
_ROUNDS = 4


@dataclass(frozen=True)
class FittedBand:
    """A band by the names of the EQ step: ``kind`` is bell, low_shelf or high_shelf."""

    kind: str
    freq_hz: float
    q: float
    gain_db: float = 0.0

    def response_db(self, freqs_hz: Curve) -> Curve:
        """Gain at each frequency."""
        make = {"bell": biquad.bell, "low_shelf": biquad.low_shelf, "high_shelf": biquad.high_shelf}
        section = make[self.kind](self.freq_hz, self.q, self.gain_db, _RATE)
        return biquad.response_db(section[None], freqs_hz, _RATE)


def fit_bands(
    freqs_hz: Curve, wanted_db: Curve, weights: Curve, may_boost: NDArray[np.bool_], *,
    most_bands: int = 6, most_db: float = 6.0,
) -> tuple[FittedBand, ...]:  # fmt: skip
    """Bands whose curve comes close to the wanted one; how loud it is in all is left free.

    Parameters
    ----------
    freqs_hz, wanted_db : array, shape (n,)
        The curve.
    weights : array, shape (n,)
        What each place counts; 0 where it is not to count.
    may_boost : array of bool, shape (n,)
        Where a boost is allowed.
    most_bands : int
    most_db : float
        No band has more gain, up or down.

    Returns
    -------
    bands : tuple of FittedBand
        By rising frequency; none where the curve is close enough already.
    """
    bands: list[FittedBand] = []
    if not weights.any():
        return ()
    atoms = _atoms(freqs_hz)
    while len(bands) < most_bands:
        left_db = _centred(wanted_db - response_db(bands, freqs_hz), weights)
        if np.average(np.abs(left_db), weights=weights) < _CLOSE_DB:
            break
        best = max(
            (
                _tried(atom, freqs_hz, left_db, weights, may_boost, most_db)
                for atom in atoms
                if not any(_is_same(atom, band) for band in bands)
            ),
            key=lambda tried: tried[0],
        )
        if best[0] <= 0.0:
            break
        bands = _refined([*bands, best[1]], freqs_hz, wanted_db, weights, may_boost, most_db)
    kept = (
        replace(b, gain_db=round(b.gain_db, 1)) for b in bands if abs(b.gain_db) >= _LEAST_GAIN_DB
    )
    return tuple(sorted(kept, key=lambda band: band.freq_hz))


def response_db(bands: Sequence[FittedBand], freqs_hz: Curve) -> Curve:
    """Gain of all bands together."""
    return sum((band.response_db(freqs_hz) for band in bands), start=np.zeros(len(freqs_hz)))


def _atoms(freqs_hz: Curve) -> list[FittedBand]:
    bells = [FittedBand("bell", round(float(f)), q, _TRIAL_DB) for f in freqs_hz for q in _BELL_QS]
    low = [FittedBand("low_shelf", f, _SHELF_Q, _TRIAL_DB) for f in _LOW_SHELVES_HZ]
    high = [FittedBand("high_shelf", f, _SHELF_Q, _TRIAL_DB) for f in _HIGH_SHELVES_HZ]
    return [*bells, *low, *high]


def _is_same(one: FittedBand, other: FittedBand) -> bool:
    return replace(one, gain_db=other.gain_db) == other


def _centred(curve_db: Curve, weights: Curve) -> Curve:
    return np.asarray(curve_db - np.average(curve_db, weights=weights))


def _tried(
    atom: FittedBand, freqs_hz: Curve, left_db: Curve, weights: Curve,
    may_boost: NDArray[np.bool_], most_db: float,
) -> tuple[float, FittedBand]:  # fmt: skip
    """By how much the error falls, and the band with its gain."""
    shape = _centred(atom.response_db(freqs_hz) / _TRIAL_DB, weights)
    power = float((weights * shape**2).sum())
    gain_db = float((weights * shape * left_db).sum()) / max(power, 1e-9)
    band = _held(replace(atom, gain_db=gain_db), freqs_hz, may_boost, most_db)
    after_db = _centred(left_db - band.response_db(freqs_hz), weights)
    return float((weights * (left_db**2 - after_db**2)).sum()), band


def _held(
    band: FittedBand, freqs_hz: Curve, may_boost: NDArray[np.bool_], most_db: float
) -> FittedBand:
    """With as much of its gain as it may have."""
    gain_db = float(np.clip(band.gain_db, -most_db, most_db))
    if gain_db > 0.0 and not may_boost.all():
        spill = replace(band, gain_db=gain_db).response_db(freqs_hz)[~may_boost].max()
        gain_db *= min(1.0, _SPILL_DB / max(float(spill), 1e-9))
    return replace(band, gain_db=gain_db)


def _refined(
    bands: list[FittedBand], freqs_hz: Curve, wanted_db: Curve, weights: Curve,
    may_boost: NDArray[np.bool_], most_db: float,
) -> list[FittedBand]:  # fmt: skip
    """All gains together."""
    root = np.sqrt(weights)
    for _ in range(_ROUNDS):
        left_db = _centred(wanted_db - response_db(bands, freqs_hz), weights)
        slopes = np.stack(
            [
                _centred(
                    replace(b, gain_db=b.gain_db + 0.5).response_db(freqs_hz)
                    - replace(b, gain_db=b.gain_db - 0.5).response_db(freqs_hz),
                    weights,
                )
                for b in bands
            ],
            axis=1,
        )
        steps_db = np.linalg.lstsq(
            np.vstack([slopes * root[:, None], 0.1 * np.eye(len(bands))]),
            np.append(left_db * root, np.zeros(len(bands))),
            rcond=None,
        )[0]
        bands = [
            _held(replace(b, gain_db=b.gain_db + float(step)), freqs_hz, may_boost, most_db)
            for b, step in zip(bands, steps_db, strict=True)
        ]
    return bands
