"""Gain of the voice from before to after, taken out before *Removed* subtracts one from the other.

After minus before at their own levels is mostly the voice itself as soon as a chain changes the
level. The gain that leaves the least of the voice is the one of least squares over loud moments,
where noise weighs little: sum(before * after) / sum(before²).
"""

from __future__ import annotations

import numpy as np

from zesty_core.foundation.signal import Block

_FRAME_S = 0.02
#: Frames within this of the loud ones (95 % are softer) are voice.
_VOICE_SHARE = 0.1


class VoiceGainMeter:
    """Measures the voice gain between two aligned signals, block by block."""

    def __init__(self, sample_rate_hz: int) -> None:
        self._frame = max(1, round(_FRAME_S * sample_rate_hz))
        self._rest: tuple[Block, Block] | None = None
        self._sums: list[np.ndarray] = []

    def push(self, before: Block, after: Block) -> None:
        """Take two blocks of the same shape."""
        if self._rest is not None:
            before = np.concatenate([self._rest[0], before], axis=1)
            after = np.concatenate([self._rest[1], after], axis=1)
        whole = before.shape[1] // self._frame * self._frame
        self._rest = before[:, whole:], after[:, whole:]
        if whole:
            x, y = (b[:, :whole].reshape(len(b), -1, self._frame) for b in (before, after))
            sums = (np.einsum("cfs,cfs->f", x, z, dtype=np.float64) for z in (x, y))
            self._sums.append(np.stack(list(sums)))

    def finish(self) -> float | None:
        """Gain from before to after in dB; None where nothing of before is found in after."""
        if not self._sums:
            return None
        power, shared = np.concatenate(self._sums, axis=1)
        loud = power >= _VOICE_SHARE * np.quantile(power, 0.95)
        total, common = power[loud].sum(), shared[loud].sum()
        if total <= 0.0 or common <= 1e-6 * total:
            return None
        return float(20.0 * np.log10(common / total))


def voice_gain_db(before: Block, after: Block, sample_rate_hz: int) -> float | None:
    """Voice gain in dB of two whole signals, over the shorter one; None where channels differ."""
    if len(before) != len(after):
        return None
    length = min(before.shape[1], after.shape[1])
    meter = VoiceGainMeter(sample_rate_hz)
    meter.push(before[:, :length], after[:, :length])
    return meter.finish()
