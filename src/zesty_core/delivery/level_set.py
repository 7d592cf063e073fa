"""One level for a set of recordings: all alike, or with the differences they were recorded with."""

from __future__ import annotations

import math
from collections.abc import Sequence

#: What can be done with the levels of a set.
SET_LEVELS = ("alike", "keep")


def offsets_lu(loudness_lufs: Sequence[float | None]) -> list[float]:
    """How far each recording stands from the loudness of all together, in LU, two decimals.

    The loudness of all is the mean of their powers; a recording without one stands at it.
    """
    known = [v for v in loudness_lufs if v is not None]
    if not known:
        return [0.0] * len(loudness_lufs)
    whole = 10.0 * math.log10(sum(10.0 ** (v / 10.0) for v in known) / len(known))
    return [0.0 if v is None else round(v - whole, 2) for v in loudness_lufs]
