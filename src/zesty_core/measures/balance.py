"""Sibilance and rumble relative to the voice.

From the power of windows of 85 ms in three bands. Bands and shares are common practice, no source;
docs/findings.md lists their hit and false-alarm rates.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_core.foundation.units import power_to_db

#: Rumble (below the lowest partials and mains hum), voice, sibilants.
RUMBLE_HZ, VOICE_HZ, HISS_HZ = (18.0, 40.0), (100.0, 4000.0), (4500.0, 12_000.0)
#: Windows this far below the loud ones are pauses.
_ACTIVE_DB = 25.0
_LEAST_VOICED = 5


@dataclass(frozen=True)
class Balance:
    """Levels relative to voiced speech, in dB."""

    #: 98th percentile of the 4.5 to 12 kHz level during speech.
    sibilance_db: float
    #: 25th percentile of the 18 to 40 Hz level.
    rumble_db: float

    def as_json(self) -> dict[str, float]:
        """JSON object."""
        return asdict(self)


def balance_of(powers: NDArray[np.float64]) -> Balance | None:
    """Balance from the powers (rumble, voice, hiss) of every window, shape (3, windows).

    None where too little is voiced to say.
    """
    rumble, voice, hiss = powers
    total = voice + hiss
    if total.size < 2 * _LEAST_VOICED or not total.any():
        return None
    active = total > np.quantile(total, 0.95) * 10 ** (-_ACTIVE_DB / 10)
    voiced = active & (voice > hiss)
    if np.count_nonzero(voiced) < _LEAST_VOICED:
        return None
    level = float(voice[voiced].mean())
    # Steady hiss of the room is no sibilant.
    steady = float(np.quantile(hiss, 0.1))
    sharpest = max(0.0, float(np.quantile(hiss[active], 0.98)) - steady)
    floor = 1e-10 * level
    return Balance(
        power_to_db(max(sharpest, floor) / level),
        power_to_db(max(float(np.quantile(rumble, 0.25)), floor) / level),
    )
