"""How far a voice stands over a bed: what tells whether it is easy to follow."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.bed.mix import faded, round_of
from zesty_core.bed.plan import HOP_S, BedPlan

_LEAST_FACTOR = 1e-6


def distance_of(plan: BedPlan, points: int = 400) -> dict[str, Any]:
    """Level of the voice over that of the bed in dB over time while it speaks; None elsewhere.

    Told by 20 ms from what is known of both. ``typical_db`` is the median, ``least_db`` what nine
    tenths of the words stay over.
    """
    hops = len(plan.speaks)
    at = np.round((np.arange(hops) + 0.5) * plan.hop).astype(np.int64)
    bed_levels = plan.bed.levels_dbfs
    in_bed = np.minimum(at % round_of(plan)[0] // plan.hop, len(bed_levels) - 1)
    fade_db = 20.0 * np.log10(np.maximum(faded(plan, at), _LEAST_FACTOR))
    bed = bed_levels[in_bed] + plan.bed_gain_db + plan.dips_db + fade_db
    apart = np.full(hops, np.nan)
    first, levels = math.ceil(plan.start / plan.hop), plan.voice.levels_dbfs
    apart[first : first + len(levels)] = levels - bed[first : first + len(levels)]
    apart[~plan.speaks] = np.nan
    known = apart[~np.isnan(apart)]
    every = max(1, math.ceil(hops / points))
    return {
        "step_s": every * HOP_S,
        "distance_db": [_mean(apart[at : at + every]) for at in range(0, hops, every)],
        "bed_gain_db": [round(float(v), 1) for v in plan.dips_db[::every]],
        "typical_db": round(float(np.median(known)), 1) if len(known) else None,
        "least_db": round(float(np.quantile(known, 0.1)), 1) if len(known) else None,
    }


def _mean(values: NDArray[np.float64]) -> float | None:
    known = values[~np.isnan(values)]
    return round(float(known.mean()), 1) if len(known) else None
