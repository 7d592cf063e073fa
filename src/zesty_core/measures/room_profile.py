"""What a sample of room tone holds, whether it is one, and how it changed since another.

Common practice, no published source; levels are third-octave bands (IEC 61260-1).
"""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.foundation.units import level_or_none, power_to_db
from zesty_core.measures.spectrum import Spectrum, SpectrumMeter

#: Shorter samples do, but a longer one is better.
_SHORT_S = 0.3
_WINDOW_S = 0.05
#: A room moves by little from one twentieth of a second to the next; speech moves by far more.
_SPEECH_RISE_DB, _SPEECH_SHARE = 9.0, 0.06
#: A millisecond of steady noise stays well below this over the median one.
_CLICK_S, _CLICK_OVER_DB = 0.001, 12.0
#: What lasts longer is no click.
_CLICK_MOST = 8
#: A line stands this far over the median of its neighbours.
_LINE_OVER_DB, _LINE_NEIGHBOURS = 10.0, 12
_LOWEST_LINE_HZ, _HIGHEST_LINE_HZ = 40.0, 8_000.0
_SAME_LINE = 0.03
_MOST_LINES = 12
_LEAST_CHANGE_DB = 1.0
_BAND_CHANGE_DB = 6.0


@dataclass(frozen=True)
class RoomProfile:
    """Level, third-octave bands, steady tones, and what speaks against the sample."""

    level_dbfs: float | None
    bands: tuple[tuple[float, float | None], ...]
    tones_hz: tuple[int, ...]
    warnings: tuple[str, ...]

    def as_json(self) -> dict[str, Any]:
        """JSON object."""
        data = asdict(self)
        data["bands"] = [
            {"freq_hz": f, "level_dbfs": None if level is None else round(level, 2)}
            for f, level in self.bands
        ]
        return data

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> RoomProfile:
        """The profile :meth:`as_json` was made from, to two decimals."""
        bands = tuple((band["freq_hz"], band["level_dbfs"]) for band in data["bands"])
        return cls(data["level_dbfs"], bands, tuple(data["tones_hz"]), tuple(data["warnings"]))


def profile_of(samples: Block, sample_rate_hz: int) -> RoomProfile:
    """Describe a stretch of room tone.

    Parameters
    ----------
    samples : (channels, samples) in which nobody speaks.
    sample_rate_hz : their rate.

    Returns
    -------
    Level without its DC offset in dBFS, third octaves, steady tones, and what makes it a poor sample.
    """
    meter = SpectrumMeter(SignalInfo(sample_rate_hz, *samples.shape))
    meter.push(samples)
    spectrum = meter.finish()
    power = float(np.var(samples, axis=1, dtype=np.float64).mean())
    return RoomProfile(
        level_or_none(power_to_db(power)),
        tuple(spectrum.third_octaves()) if spectrum else (),
        _tones(spectrum) if spectrum else (),
        tuple(_warnings(samples, sample_rate_hz)),
    )


def _warnings(samples: Block, rate: int) -> list[str]:
    length_s = samples.shape[1] / rate
    mono = samples.mean(axis=0, dtype=np.float64)
    if float(np.var(mono)) == 0.0:
        return ["is digital silence: nothing of the room was recorded here"]
    found = []
    if length_s < _SHORT_S:
        found.append(f"is only {length_s:.2f} s long; half a second or more teaches better")
    levels = 10.0 * np.log10(np.maximum(_window_powers(mono, round(_WINDOW_S * rate)), 1e-15))
    if len(levels) >= 4:
        rise = levels - np.percentile(levels, 20)
        loud = float((rise > _SPEECH_RISE_DB).mean())
        if loud > _SPEECH_SHARE:
            found.append(
                f"holds speech or another noise: {100 * loud:.0f} % of it stands more than "
                f"{_SPEECH_RISE_DB:.0f} dB over its quiet parts"
            )
    clicks = 0 if found else _clicks(mono, rate)
    if clicks:
        found.append(f"holds {clicks} click{'s' if clicks > 1 else ''}")
    return found


def _clicks(mono: NDArray[np.float64], rate: int) -> int:
    """How many short stretches jump far out of what surrounds them."""
    sharp = np.diff(mono)  # a click is short: what is steep tells it from rumble
    powers = _window_powers(sharp, max(4, round(_CLICK_S * rate)))
    if len(powers) < 8:
        return 0
    over = 10.0 * np.log10(np.maximum(powers, 1e-18) / max(float(np.median(powers)), 1e-18))
    high = over > _CLICK_OVER_DB
    starts = np.flatnonzero(np.diff(np.concatenate([[0], high.astype(np.int8)])) == 1)
    return sum(1 for s in starts if not high[s : s + _CLICK_MOST].all())


def _window_powers(values: NDArray[np.float64], width: int) -> NDArray[np.float64]:
    whole = len(values) // width
    if whole == 0:
        return np.empty(0)
    cut = values[: whole * width].reshape(whole, width)
    return np.asarray(cut.var(axis=1))


def _tones(spectrum: Spectrum) -> tuple[int, ...]:
    """Frequencies of lines that stand out, the strongest first, then in order."""
    power = 10.0 * np.log10(np.maximum(spectrum.power, 1e-18))
    first = max(1, round(_LOWEST_LINE_HZ / spectrum.bin_hz))
    last = min(len(power) - 1, round(_HIGHEST_LINE_HZ / spectrum.bin_hz))
    found = []
    for k in range(first, last):
        if power[k] < power[k - 1] or power[k] < power[k + 1]:
            continue
        around = power[max(1, k - _LINE_NEIGHBOURS) : k + _LINE_NEIGHBOURS + 1]
        over = float(power[k] - np.median(around))
        if over >= _LINE_OVER_DB:
            found.append((over, _between_bins(power, k) * spectrum.bin_hz))
    strongest = sorted(found, reverse=True)[:_MOST_LINES]
    return tuple(sorted(round(freq_hz) for _, freq_hz in strongest))


def _between_bins(power_db: NDArray[np.float64], k: int) -> float:
    """Place of a peak from a parabola through three bins."""
    a, b, c = power_db[k - 1], power_db[k], power_db[k + 1]
    bend = a - 2 * b + c
    return k + (0.5 * (a - c) / bend if bend < 0 else 0.0)


def changes(older: RoomProfile, newer: RoomProfile) -> list[str]:
    """What differs between two samples of one room, in plain words; empty when nothing does."""
    if older.level_dbfs is None or newer.level_dbfs is None:
        return []
    told = []
    difference = newer.level_dbfs - older.level_dbfs
    if abs(difference) >= _LEAST_CHANGE_DB:
        told.append(f"{abs(difference):.0f} dB {'noisier' if difference > 0 else 'quieter'}")
    for words, these, those in (
        ("a new tone", newer.tones_hz, older.tones_hz),
        ("no more tone", older.tones_hz, newer.tones_hz),
    ):
        fresh = [f for f in these if not any(abs(f - g) <= max(4, _SAME_LINE * g) for g in those)]
        if fresh:
            told.append(f"{words} at {', '.join(f'{f} Hz' for f in fresh[:3])}")
    worst = _largest_band_change(older, newer, difference)
    if worst:
        freq_hz, change = worst
        told.append(
            f"{abs(change):.0f} dB {'more' if change > 0 else 'less'} around {freq_hz:.0f} Hz"
        )
    return told


def _largest_band_change(
    older: RoomProfile, newer: RoomProfile, difference: float
) -> tuple[float, float] | None:
    """The band that moved most apart from the whole, when it did so clearly."""
    before = {f: level for f, level in older.bands if level is not None}
    moved = [
        (f, level - before[f])
        for f, level in newer.bands
        if level is not None and f in before and max(level, before[f]) > -100.0
    ]
    if not moved:
        return None
    freq_hz, change = max(moved, key=lambda m: abs(m[1] - difference))
    return (freq_hz, change) if abs(change - difference) >= _BAND_CHANGE_DB else None
