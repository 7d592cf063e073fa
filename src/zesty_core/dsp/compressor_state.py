"""What a compressor's kernels are given and keep, by name."""

from __future__ import annotations

from typing import NamedTuple


class Curve(NamedTuple):
    """Static curve; ``slope`` is 1 - 1/ratio."""

    threshold_dbfs: float
    slope: float
    knee_db: float
    makeup_db: float
    guard_dbfs: float


class Smoothing(NamedTuple):
    """Coefficients of one-pole smoothers: 0 follows at once, nearly 1 slowly."""

    attack: float
    release: float
    slow_attack: float
    slow_release: float
    rms_window: float
    guard_rise: float
    guard_fall: float
    makeup_glide: float


#: Places in the running state: reductions in dB, mean square of the detector, power at the quiet guard,
#: samples of its open hop, make-up at the start of that hop and the one wanted, largest reduction.
REDUCTION, SLOW_REDUCTION, MEAN_SQUARE, GUARD_POWER = 0, 1, 2, 3
HOP_SAMPLES, MAKEUP, MAKEUP_WANTED, MAX_REDUCTION = 4, 5, 6, 7
STATE_SIZE = 8
