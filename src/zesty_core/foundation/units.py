"""Conversions between units: decibels and factors, seconds and samples.

Decibels here are amplitude decibels, ``20 log10``, unless the name says power.
"""

import math

#: Levels below this are reported as "no signal" instead of a number.
SILENCE_DB = -150.0


def db_to_factor(level_db: float) -> float:
    """Amplitude factor of a level in dB.

    Examples
    --------
    >>> db_to_factor(20)
    10.0
    """
    return float(10.0 ** (level_db / 20.0))


def factor_to_db(factor: float) -> float:
    """Level in dB of an amplitude factor; zero and less give minus infinity.

    Examples
    --------
    >>> factor_to_db(10)
    20.0
    """
    return 20.0 * math.log10(factor) if factor > 0.0 else -math.inf


def power_to_db(power: float) -> float:
    """Level in dB of a mean square; zero and less give minus infinity.

    Examples
    --------
    >>> power_to_db(10)
    10.0
    """
    return 10.0 * math.log10(power) if power > 0.0 else -math.inf


def level_without(level_db: float, power: float) -> float | None:
    """Level once a part of this mean square is taken away; None where nothing is left."""
    return level_or_none(power_to_db(db_to_factor(level_db) ** 2 - power))


def level_or_none(level_db: float) -> float | None:
    """Return the level, or None where there is no signal (JSON has no infinity)."""
    return level_db if math.isfinite(level_db) and level_db > SILENCE_DB else None


def seconds_to_samples(time_s: float, sample_rate_hz: int) -> int:
    """Nearest sample index of a time.

    Examples
    --------
    >>> seconds_to_samples(0.1, 44100)
    4410
    """
    return round(time_s * sample_rate_hz)


def format_time(time_s: float) -> str:
    """Time as people read it: ``m:ss.s``, with hours from one hour on.

    Examples
    --------
    >>> format_time(75.25)
    '1:15.3'
    """
    tenths = math.floor(time_s * 10 + 0.5)  # half up, as on the pages
    minutes, rest = divmod(tenths, 600)
    hours, minutes = divmod(minutes, 60)
    seconds = f"{rest / 10:04.1f}"
    return f"{hours}:{minutes:02d}:{seconds}" if hours else f"{minutes}:{seconds}"
