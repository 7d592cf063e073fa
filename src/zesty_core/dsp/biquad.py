"""Second-order filter sections: coefficients and response.

Coefficients are rows ``b0 b1 b2 a1 a2`` normalised to ``a0 = 1``. Formulas: Audio EQ Cookbook
(W3C Note 2021), with ``alpha = sin(w0) / (2 Q)``; first-order sections by the bilinear transform.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

Sections = NDArray[np.float64]
#: A section that changes nothing.
PASS_ALL = (1.0, 0.0, 0.0, 0.0, 0.0)

#: Q of the sections of Butterworth filters by slope; None stands for a first-order section.
BUTTERWORTH_Q: dict[int, tuple[float | None, ...]] = {
    6: (None,),
    12: (1 / math.sqrt(2),),
    18: (None, 1.0),
    24: (1 / (2 * math.cos(math.pi / 8)), 1 / (2 * math.cos(3 * math.pi / 8))),
}


def _row(b0: float, b1: float, b2: float, a0: float, a1: float, a2: float) -> Sections:
    return np.array([b0, b1, b2, a1, a2]) / a0


def _angle(freq_hz: float, q: float, rate: int) -> tuple[float, float]:
    w0 = 2.0 * math.pi * freq_hz / rate
    return math.cos(w0), math.sin(w0) / (2.0 * q)


def low_pass(freq_hz: float, q: float | None, rate: int) -> Sections:
    """Second-order low-pass, or first-order when ``q`` is None.

    Parameters
    ----------
    freq_hz : float
        Corner or centre, above zero and below half the rate.
    q : float or None
        Quality factor; None for a first-order section.
    rate : int
        Sample rate in Hz.

    Returns
    -------
    sections : array, shape (1, 5)
        One row ``b0 b1 b2 a1 a2``, normalised to ``a0 = 1``.

    References
    ----------
    W3C Audio EQ Cookbook.
    """
    if q is None:
        k = math.tan(math.pi * freq_hz / rate)
        return _row(k, k, 0.0, 1.0 + k, k - 1.0, 0.0)
    c, alpha = _angle(freq_hz, q, rate)
    return _row((1 - c) / 2, 1 - c, (1 - c) / 2, 1 + alpha, -2 * c, 1 - alpha)


def high_pass(freq_hz: float, q: float | None, rate: int) -> Sections:
    """Second-order high-pass, or first-order when ``q`` is None. Arguments: :func:`low_pass`."""
    if q is None:
        k = math.tan(math.pi * freq_hz / rate)
        return _row(1.0, -1.0, 0.0, 1.0 + k, k - 1.0, 0.0)
    c, alpha = _angle(freq_hz, q, rate)
    return _row((1 + c) / 2, -(1 + c), (1 + c) / 2, 1 + alpha, -2 * c, 1 - alpha)


def bell(freq_hz: float, q: float, gain_db: float, rate: int) -> Sections:
    """Peaking section: ``gain_db`` at ``freq_hz``, 0 dB far away.

    Parameters
    ----------
    freq_hz : float
        Corner or centre, above zero and below half the rate.
    q : float
        Quality factor.
    gain_db : float
        Gain at the centre, or on the shelf.
    rate : int
        Sample rate in Hz.

    Returns
    -------
    sections : array, shape (1, 5)
        One row ``b0 b1 b2 a1 a2``, normalised to ``a0 = 1``.

    References
    ----------
    W3C Audio EQ Cookbook.
    """
    amount = 10.0 ** (gain_db / 40.0)
    c, alpha = _angle(freq_hz, q, rate)
    return _row(
        1 + alpha * amount,
        -2 * c,
        1 - alpha * amount,
        1 + alpha / amount,
        -2 * c,
        1 - alpha / amount,
    )


def notch(freq_hz: float, q: float, rate: int) -> Sections:
    """Section that removes ``freq_hz`` entirely. Arguments: :func:`bell`."""
    c, alpha = _angle(freq_hz, q, rate)
    return _row(1.0, -2 * c, 1.0, 1 + alpha, -2 * c, 1 - alpha)


def low_shelf(freq_hz: float, q: float, gain_db: float, rate: int) -> Sections:
    """Section with ``gain_db`` below ``freq_hz``, half of it there. Arguments: :func:`bell`."""
    amount = 10.0 ** (gain_db / 40.0)
    c, alpha = _angle(freq_hz, q, rate)
    up, down, root = amount + 1, amount - 1, 2 * math.sqrt(amount) * alpha
    return _row(
        amount * (up - down * c + root),
        2 * amount * (down - up * c),
        amount * (up - down * c - root),
        up + down * c + root,
        -2 * (down + up * c),
        up + down * c - root,
    )


def high_shelf(freq_hz: float, q: float, gain_db: float, rate: int) -> Sections:
    """Section with ``gain_db`` above ``freq_hz``, half of it there. Arguments: :func:`bell`."""
    amount = 10.0 ** (gain_db / 40.0)
    c, alpha = _angle(freq_hz, q, rate)
    up, down, root = amount + 1, amount - 1, 2 * math.sqrt(amount) * alpha
    return _row(
        amount * (up + down * c + root),
        -2 * amount * (down + up * c),
        amount * (up + down * c - root),
        up - down * c + root,
        2 * (down - up * c),
        up - down * c - root,
    )


def response_db(sections: Sections, freq_hz: NDArray[np.float64], rate: int) -> Sections:
    """Magnitude response of a cascade in dB at each frequency.

    Parameters
    ----------
    sections : array, shape (n, 5)
        The cascade.
    freq_hz : array
        Frequencies to answer for.
    rate : int
        Sample rate in Hz.

    Returns
    -------
    level_db : array, shape of ``freq_hz``
        Gain of the cascade.
    """
    z = np.exp(-2j * np.pi * freq_hz / rate)
    total = np.ones_like(z)
    for b0, b1, b2, a1, a2 in sections:
        total *= (b0 + b1 * z + b2 * z**2) / (1.0 + a1 * z + a2 * z**2)
    return np.asarray(20.0 * np.log10(np.maximum(np.abs(total), 1e-12)), dtype=np.float64)


def by_states(sections: Sections) -> Sections:
    """Rows ``b0 c1 c2 -a1 -a2`` with ``c = b - a b0``: what each state takes from the input alone.

    The next states then follow from the states and the input, without waiting for the output; and
    each is a product added to something that is known before it.
    """
    rows = np.array(sections, dtype=np.float64).reshape(-1, 5)
    rows[:, 3:5] *= -1.0
    rows[:, 1:3] += rows[:, 3:5] * rows[:, :1]
    return rows
