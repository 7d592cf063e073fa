"""Where a sound repeats itself as a voice does while it holds a vowel.

Normalized cross-correlation with what is a little earlier and later (textbook; as in ``dsp.pitch``), of
the means over milliseconds that meters share. At a thousand values a second little more than a
fundamental and its next partials is left of a voice, but that is enough to tell that there is one, and
next to no work.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zesty_core.measures.hops import SAMPLES
from zesty_core.measures.time_series import TimeSeries
from zesty_core.runtime.kernel import kernel

#: A span of so many milliseconds is looked at, every so many.
_SPAN_MS, STEP_MS = 40, 20
#: Periods of 67 to 333 Hz, or several of them together: of those that lie between two milliseconds some
#: multiple comes near one.
_LEAST_MS, _MOST_MS = 3, 15
#: What is one with itself a period later and earlier measures 1, a noise seldom more than 0.6.
_VOICED = 0.7
#: With the longest period before and behind it.
_WANTED_MS = _SPAN_MS + 2 * _MOST_MS
_ZERO, _TINY = np.float32(0.0), np.float32(1e-15)


@kernel
def _flag_voiced(differences: NDArray[np.float32], out: NDArray[np.bool_]) -> None:
    """Whether each span repeats itself; ``differences`` has a row for each channel."""
    shifts = 2 * _MOST_MS + 1
    powers, alike = np.empty(shifts, np.float32), np.empty(shifts, np.float32)
    for step in range(out.shape[0]):
        begin = step * STEP_MS
        powers[:], alike[:] = _TINY, _ZERO
        for channel in range(differences.shape[0]):
            near = differences[channel, begin : begin + _WANTED_MS]
            # All shifts of a sample at once, none of whose sums waits for another.
            for n in range(_SPAN_MS):
                own = near[_MOST_MS + n]
                for shift in range(shifts):
                    alike[shift] += own * near[n + shift]
            power = 0.0
            for n in range(_SPAN_MS):
                power += np.float64(near[n]) * near[n]
            for shift in range(shifts):
                powers[shift] += np.float32(max(power, 0.0))
                if shift < shifts - 1:
                    come, gone = np.float64(near[shift + _SPAN_MS]), np.float64(near[shift])
                    power += come * come - gone * gone
        out[step] = False
        for lag in range(_LEAST_MS, _MOST_MS + 1):
            likeness = _ZERO
            for shift in (_MOST_MS - lag, _MOST_MS + lag):
                likeness += alike[shift] / np.sqrt(powers[_MOST_MS] * powers[shift])
            out[step] |= likeness > np.float32(2.0 * _VOICED)


class VoicedMeter:
    """Keeps for every ``STEP_MS`` whether the sound repeats itself about its middle."""

    #: The first is looked for every so many milliseconds.
    FIRST_MS = _WANTED_MS // 2

    def __init__(self, channels: int) -> None:
        self._open = np.zeros((channels, 0), np.float32)
        self._last = np.zeros((channels, 1))
        self._voiced = TimeSeries(1, np.bool_)

    def push_hops(self, hops: NDArray[np.float64]) -> None:
        """Take the sums of the next milliseconds into account."""
        # Differences know neither an offset nor the slow swings of rumble.
        sums = np.concatenate([self._last, hops[..., SAMPLES]], axis=1)
        self._last = sums[:, -1:]
        differences = np.diff(sums, axis=1).astype(np.float32)
        self._open = np.concatenate([self._open, differences], axis=1)
        steps = max(0, (self._open.shape[1] - _WANTED_MS) // STEP_MS + 1)
        voiced = np.empty(steps, np.bool_)
        _flag_voiced(self._open, voiced)
        self._voiced.append(voiced[None])
        self._open = self._open[:, steps * STEP_MS :]

    def flags(self) -> NDArray[np.bool_]:
        """All of them."""
        return self._voiced.row(0)
