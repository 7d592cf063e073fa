"""The period of a voice's pitch, by how like the sound is to itself a little earlier and later.

Normalized cross-correlation of a span with the same span earlier and later (textbook). Both sides
count, so that a vowel's onset or end alone decides nothing. Who is wrong by an octave has still found
where the sound is like itself, and that is what the period is used for here.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.runtime.kernel import inlined_kernel, summing_kernel

Signal = NDArray[np.float32]

#: What is looked for.
LEAST_PITCH_HZ, MOST_PITCH_HZ = 65.0, 400.0
_SPAN_S = 0.04
#: A period's multiples are as like as itself: the shortest that comes so near the best is taken.
_NEAR_BEST = np.float32(0.85)
_TINY = np.float32(1e-12)


@inlined_kernel
def peak_offset(before: Any, peak: Any, after: Any) -> Any:
    """How far from the largest of three neighbours a parabola through them has its peak, -0.5..0.5."""
    bend = before - np.float32(2.0) * peak + after
    return np.float32(0.5) * (before - after) / bend if bend < 0.0 else np.float32(0.0)


@summing_kernel
def _best_lags(
    sound: Signal,
    begins: NDArray[np.int64],
    span: int,
    least: int,
    alike: Signal,
    lags: Signal,
    likeness: Signal,
) -> None:
    """Best lag of the spans that begin there; ``alike`` is for what each from ``least`` on finds."""
    half, quarter, last = np.float32(0.5), np.float32(0.25), alike.shape[0] - 1
    for t in range(lags.shape[0]):
        begin = begins[t]
        end = begin + span
        own, later = sound[begin:end], sound[begin + least : end + least]
        earlier = sound[begin - least : end - least]
        power, power_later, power_earlier = _TINY, _TINY, _TINY
        for n in range(span):
            power += own[n] * own[n]
            power_later += later[n] * later[n]
            power_earlier += earlier[n] * earlier[n]
        for i in range(alike.shape[0]):
            lag = least + i
            later, earlier = sound[begin + lag : end + lag], sound[begin - lag : end - lag]
            with_later, with_earlier = np.float32(0.0), np.float32(0.0)
            for n in range(span):
                with_later += own[n] * later[n]
                with_earlier += own[n] * earlier[n]
            alike[i] = half * (
                with_later / np.sqrt(power * power_later)
                + with_earlier / np.sqrt(power * power_earlier)
            )
            # Both spans move on by one.
            come, gone = sound[end + lag], sound[begin + lag]
            power_later = max(power_later + come * come - gone * gone, _TINY)
            come, gone = sound[begin - lag - 1], sound[end - lag - 1]
            power_earlier = max(power_earlier + come * come - gone * gone, _TINY)
        best = alike.max()
        # What does not rise in between, as in silence, has its longest.
        lags[t], likeness[t] = np.float32(least + last), alike[last]
        for i in range(1, last):
            before, peak, after = alike[i - 1], alike[i], alike[i + 1]
            if peak > before and peak >= after:
                offset = peak_offset(before, peak, after)
                height = peak - quarter * (before - after) * offset
                if height >= _NEAR_BEST * best:
                    lags[t], likeness[t] = np.float32(least + i) + offset, height
                    break


class PitchFinder:
    """Finds periods in sound of one rate, which need not be higher than a voice's low partials want."""

    def __init__(self, sample_rate_hz: float) -> None:
        self._span = 2 * round(sample_rate_hz * _SPAN_S / 2)
        self._least = int(sample_rate_hz / MOST_PITCH_HZ)
        #: Periods are no longer than this, and half a sample at most.
        self.most_lag = int(sample_rate_hz / LEAST_PITCH_HZ) + 1
        #: Samples wanted on either side of a place.
        self.reach = self._span // 2 + self.most_lag + 1

    def at(self, sound: Signal, places: NDArray[np.int64]) -> tuple[Signal, Signal]:
        """Period in samples, and how alike the sound is then (-1..1), about these samples."""
        lags, likeness = np.empty(len(places), np.float32), np.empty(len(places), np.float32)
        alike = np.empty(self.most_lag - self._least + 1, np.float32)
        _best_lags(sound, places - self._span // 2, self._span, self._least, alike, lags, likeness)
        return lags, likeness
