"""Settings of each step to start from, named by what they are for.

Common practice, no source. Whatever is not named stands at its default.
"""

from __future__ import annotations

from typing import Any

from zesty_core.settings import Declared
from zesty_core.steps.registry import STEP_TYPES

_FOLLOWS: dict[str, Any] = {"follow_voice": True, "quiet_guard_db": -24.0}


def _band(threshold_db: float, ratio: float, **more: Any) -> dict[str, Any]:
    return {**_FOLLOWS, "threshold_db": threshold_db, "ratio": ratio, "makeup_db": 0.0, **more}


_STARTERS: dict[str, dict[str, dict[str, Any]]] = {
    "noise_reduction": {
        "Quiet room": {"depth_db": 12.0},
        "Fan and street": {"depth_db": 18.0},
        "Rescue": {"depth_db": 25.0, "margin_db": 1.0},
        "A room that changes": {"depth_db": 18.0, "track_noise": True},
    },
    "gate": {
        "Soft between the words": {
            "follow_voice": True, "threshold_db": -24.0, "ratio": 1.5, "floor_db": -8.0,
        },
        "Calm pauses": {"follow_voice": True, "threshold_db": -22.0, "floor_db": -14.0},
        "Shut pauses": {
            "mode": "gate", "follow_voice": True, "threshold_db": -24.0, "floor_db": -40.0,
            "hold_ms": 180.0, "release_ms": 220.0,
        },
    },
    "de_esser": {
        "Light": {"threshold_db": 8.0, "max_reduction_db": 4.0},
        "Sharp voice": {"threshold_db": 4.0, "max_reduction_db": 8.0},
        "Low, broad s": {"low_hz": 3500.0, "high_hz": 8000.0, "max_reduction_db": 6.0},
    },
    "eq": {
        "Clear narration": {
            "bands": [
                {"type": "high_pass", "freq_hz": 80.0},
                {"type": "bell", "freq_hz": 300.0, "gain_db": -2.0, "q": 1.0},
                {"type": "bell", "freq_hz": 3500.0, "gain_db": 2.0, "q": 0.8},
            ]
        },
        "Less boom": {
            "bands": [
                {"type": "high_pass", "freq_hz": 90.0},
                {"type": "low_shelf", "freq_hz": 180.0, "gain_db": -3.0},
            ]
        },
        "Warm and near": {
            "bands": [
                {"type": "high_pass", "freq_hz": 70.0},
                {"type": "low_shelf", "freq_hz": 160.0, "gain_db": 2.0},
                {"type": "high_shelf", "freq_hz": 9000.0, "gain_db": 1.5},
            ]
        },
    },
    "compressor": {
        "Gentle narration": {**_FOLLOWS, "threshold_db": -2.0, "ratio": 2.0, "attack_ms": 10.0},
        "Lively talk": {**_FOLLOWS, "threshold_db": -5.0, "ratio": 3.0, "auto_release": True},
        "Dense, for a video": {**_FOLLOWS, "threshold_db": -8.0, "ratio": 4.0, "release_ms": 90.0},
        "Loud words alone": {**_FOLLOWS, "threshold_db": 3.0, "ratio": 6.0, "attack_ms": 2.0},
    },
    "multiband": {
        "Even tone": {
            "crossovers_hz": [200.0, 3000.0],
            "bands": [_band(-4.0, 2.0), _band(-2.0, 1.5), _band(-2.0, 2.0, attack_ms=2.0)],
        },
        "Hold the boom": {
            "crossovers_hz": [180.0, 3000.0],
            "bands": [_band(-6.0, 4.0), _band(6.0, 1.0), _band(6.0, 1.0)],
        },
        "Dense, for a video": {
            "crossovers_hz": [200.0, 3000.0],
            "bands": [_band(-8.0, 3.0), _band(-7.0, 3.0), _band(-6.0, 3.0, attack_ms=2.0)],
        },
    },
    "limiter": {
        "Podcast, -1 dBTP": {"ceiling_dbtp": -1.0},
        "Audiobook, -3 dBTP": {"ceiling_dbtp": -3.0, "release_ms": 120.0},
    },
    "loudness": {
        "Podcast, stereo": {"target": -16.0, "ceiling_dbtp": -1.0},
        "Podcast, mono": {"target": -19.0, "ceiling_dbtp": -1.0},
        "Audiobook": {"measure": "rms", "target": -20.0, "ceiling_dbtp": -3.0},
    },
    "saturation": {"A little warmth": {"drive_db": 3.0}, "Old desk": {"drive_db": 8.0, "mix": 0.6}},
    "ambience": {
        "Dry booth, a little room": {"decay_s": 0.3, "mix": 0.05},
        "Living room": {"decay_s": 0.5, "pre_delay_ms": 12.0, "mix": 0.1},
    },
}  # fmt: skip


def starter_settings(kind: str) -> list[dict[str, Any]]:
    """Name and all settings of each, for a kind of step; most calm first."""
    made: type[Declared] = STEP_TYPES[kind]
    return [
        {"name": name, "params": made.from_params(params).as_params()}
        for name, params in _STARTERS.get(kind, {}).items()
    ]
