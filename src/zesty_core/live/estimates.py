"""What holds of a whole recording, estimated from how a passage of it has changed."""

from __future__ import annotations

import numpy as np

from zesty_core.foundation.signal import Block
from zesty_core.foundation.units import level_or_none, power_to_db
from zesty_core.measures.spectrum import Spectrum

_NEARLY_NOTHING = 1e-20


def moved(whole: float | None, before: float | None, now: float | None) -> float | None:
    """A level of the whole, moved as the passage's has been; unmoved where that is unknown."""
    if whole is None or before is None or now is None:
        return whole
    return whole + now - before


def moved_spectrum(
    whole: Spectrum | None, before: Spectrum | None, now: Spectrum | None
) -> Spectrum | None:
    """A spectrum of the whole, changed as the passage's has been."""
    if whole is None or before is None or now is None:
        return whole
    change = now.power / np.maximum(before.power, _NEARLY_NOTHING)
    return Spectrum(whole.bin_hz, whole.power * change)


def tone_level(tone: Block | None) -> float | None:
    """Level of a stretch of room tone without its DC offset, in dBFS."""
    if tone is None or tone.shape[1] == 0:
        return None
    return level_or_none(power_to_db(float(tone.var(axis=1, dtype=np.float64).mean())))
