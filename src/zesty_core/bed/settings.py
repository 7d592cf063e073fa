"""How a bed lies under a voice. Starting points are common practice, no published source."""

from __future__ import annotations

from dataclasses import dataclass

from zesty_core.foundation.settings import Declared, number


@dataclass(frozen=True, kw_only=True)
class BedSettings(Declared):
    """Levels, times and the dip."""

    label = "Bed"

    voice_start_s: float = number(
        "Voice starts after",
        unit="s",
        default=3.0,
        low=0,
        high=120,
        usual=(2, 8),
        increment=0.1,
        help="So long the bed is heard alone.",
    )
    level_lu: float = number(
        "Level of the bed",
        unit="LU",
        default=-6.0,
        low=-40,
        high=6,
        usual=(-10, -3),
        increment=0.5,
        help="Loudness of the bed while it is alone, from that of the voice.",
    )
    dip_db: float = number(
        "Ducking",
        unit="dB",
        default=12.0,
        low=0,
        high=40,
        usual=(8, 16),
        increment=0.5,
        help="How far the bed goes down while the voice speaks.",
    )
    attack_ms: float = number(
        "Attack",
        unit="ms",
        default=300.0,
        low=10,
        high=3000,
        usual=(150, 600),
        increment=10,
        scale="log",
        help="Time to go down; it begins so much before the word.",
    )
    release_ms: float = number(
        "Release",
        unit="ms",
        default=900.0,
        low=50,
        high=8000,
        usual=(500, 2000),
        increment=50,
        scale="log",
        help="Time to come up again.",
    )
    hold_ms: float = number(
        "Hold",
        unit="ms",
        default=700.0,
        low=0,
        high=5000,
        usual=(400, 1200),
        increment=50,
        help="Pauses up to this long keep the bed down.",
    )
    tail_s: float = number(
        "Bed goes on for",
        unit="s",
        default=5.0,
        low=0,
        high=120,
        usual=(3, 8),
        increment=0.5,
        help="After the last word, fading out at the end.",
    )
