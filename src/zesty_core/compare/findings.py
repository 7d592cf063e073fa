"""What a chain has changed, in plain words with figures.

Limits of what is reported are common practice, no published source; the measures are those of
``measure.report``.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from zesty_core.advice.finding import with_minus

_LOUDER_LU = 0.3
_CLEARER_DB = 1.0
_STEADIER_LU = 1.0
_TREBLE_HZ, _TREBLE = (4_000.0, 16_000.0), "treble (4 to 16 kHz)"
_BASS_HZ, _BASS = (80.0, 250.0), "bass (80 to 250 Hz)"
#: What changes by less is not heard as another tone.
_TONE_DB = 1.0
_PEAK_DB = 0.5

Figures = Mapping[str, Any]


def differences_in_words(before: Figures, after: Figures) -> list[str]:
    """Differences between two sets of measures (JSON), the most heard first."""
    told = [
        _louder(before, after),
        _clearer(before, after),
        _tone(before, after, _TREBLE, _TREBLE_HZ),
        _tone(before, after, _BASS, _BASS_HZ),
        _steadier(before, after),
        _hum(before, after),
        _peak(before, after),
    ]
    return [with_minus(words) for words in told if words]


def _difference(before: Figures, after: Figures, name: str) -> float | None:
    was, now = before.get(name), after.get(name)
    return None if was is None or now is None else float(now) - float(was)


def _louder(before: Figures, after: Figures) -> str | None:
    change = _difference(before, after, "integrated_lufs")
    if change is None or abs(change) < _LOUDER_LU:
        return None
    return f"{abs(change):.1f} LU {'louder' if change > 0 else 'softer'}"


def _clearer(before: Figures, after: Figures) -> str | None:
    change = _difference(before, after, "clearance_db")
    if change is None or abs(change) < _CLEARER_DB:
        return None
    return f"clearance {abs(change):.0f} dB {'better' if change > 0 else 'worse'}"


def _tone(before: Figures, after: Figures, name: str, range_hz: tuple[float, float]) -> str | None:
    was, now = _range_db(before, range_hz), _range_db(after, range_hz)
    louder = _difference(before, after, "integrated_lufs")
    if was is None or now is None or louder is None:
        return None
    change = now - was - louder
    if abs(change) < _TONE_DB:
        return None
    return f"{abs(change):.1f} dB {'more' if change > 0 else 'less'} {name} at equal loudness"


def _range_db(figures: Figures, range_hz: tuple[float, float]) -> float | None:
    """Level of what lies in a range."""
    levels = [
        b["level_dbfs"]
        for b in figures.get("spectrum") or []
        if b["level_dbfs"] is not None and range_hz[0] <= b["freq_hz"] <= range_hz[1]
    ]
    return float(10.0 * np.log10(np.sum(10.0 ** (np.array(levels) / 10.0)))) if levels else None


def _steadier(before: Figures, after: Figures) -> str | None:
    change = _difference(before, after, "loudness_range_lu")
    if change is None or abs(change) < _STEADIER_LU:
        return None
    return f"loudness {'evener' if change < 0 else 'less even'} by {abs(change):.1f} LU"


def _hum(before: Figures, after: Figures) -> str | None:
    was, now = before.get("hum"), after.get("hum")
    if was and not now:
        return f"hum at {was['base_hz']} Hz no longer found"
    return f"hum at {now['base_hz']} Hz now stands out" if now and not was else None


def _peak(before: Figures, after: Figures) -> str | None:
    change = _difference(before, after, "true_peak_dbtp")
    if change is None or abs(change) < _PEAK_DB:
        return None
    side = "higher" if change > 0 else "lower"
    return f"highest peak at {after['true_peak_dbtp']:.1f} dBTP, {abs(change):.1f} dB {side}"
