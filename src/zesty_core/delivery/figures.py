"""Measures as rows of a page: before, after, difference, each to one decimal."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

#: Measures in the order they are shown: name, words, unit, unit of a difference.
ROWS: tuple[tuple[str, str, str, str], ...] = (
    ("integrated_lufs", "Loudness", "LUFS", "LU"),
    ("loudness_range_lu", "Loudness range", "LU", "LU"),
    ("rms_dbfs", "Average", "dBFS", "dB"),
    ("true_peak_dbtp", "True peak", "dBTP", "dB"),
    ("sample_peak_dbfs", "Sample peak", "dBFS", "dB"),
    ("voice_level_dbfs", "Voice level", "dBFS", "dB"),
    ("noise_floor_dbfs", "Noise floor", "dBFS", "dB"),
    ("clearance_db", "Clearance", "dB", "dB"),
)


def shown(value: float | None, unit: str) -> str:
    """A level with its unit and a true minus sign."""
    if value is None:
        return "cannot be determined"
    return f"{value:.1f} {unit}".replace("-", "\u2212")


def changed(before: float | None, after: float | None, unit: str) -> str:
    """The difference of what is shown, with its sign."""
    if before is None or after is None:
        return ""
    difference = round(after, 1) - round(before, 1)
    return f"{difference:+.1f} {unit}".replace("-", "\u2212")


def figure_rows(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[list[str]]:
    """Words, before, after, difference."""
    return [
        [
            words,
            shown(before.get(name), unit),
            shown(after.get(name), unit),
            changed(before.get(name), after.get(name), change_unit),
        ]
        for name, words, unit, change_unit in ROWS
    ]
