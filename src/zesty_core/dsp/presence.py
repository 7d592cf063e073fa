"""Where in time and frequency a voice is present at all.

The a-posteriori SNR, averaged over three neighbourhoods, is weighed against what speech would give
there, with fixed priors (after Gerkmann, Breithaupt & Martin 2008). The voice counts as present
where any of the three finds it: in pauses all of them agree that it is not, so pauses stay steady,
and no weak sound of a word is lost to one that misses it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.kernel import kernel

Frames = NDArray[np.float32]

#: A-posteriori SNR beyond this says nothing more about presence, but would leak into neighbours.
_MOST_SNR = np.float32(40.0)
_SURE = 12.0


@dataclass(frozen=True)
class Neighbourhood:
    """Extent in time and frequency, and the SNR expected there when speech is present."""

    time_s: float
    freq_hz: float
    prior_db: float


NEIGHBOURHOODS = (
    Neighbourhood(0.060, 300.0, 6.0),
    Neighbourhood(0.200, 800.0, 3.0),
    Neighbourhood(0.120, 2_500.0, 1.5),
)
#: Bins under a Hann window, and frames at 75 % overlap, that carry one independent value.
_BINS_PER_VALUE, _FRAMES_PER_VALUE = 1.8, 2.2


@kernel
def _running_sums(snr: Frames, most: float, out: Frames) -> None:
    """Per pair of frames the sum of all bins below each bin, every value held under ``most``."""
    limit, half = np.float32(most), np.float32(0.5)
    for pair in range(out.shape[0]):
        one, other = snr[2 * pair], snr[min(2 * pair + 1, snr.shape[0] - 1)]
        sums = out[pair]
        total = np.float64(0.0)
        sums[0] = np.float32(0.0)
        for k in range(one.shape[0]):
            total += half * (min(one[k], limit) + min(other[k], limit))
            sums[k + 1] = np.float32(total)


@kernel
def _add_box(sums: Frames, half: int, sign: float, box: NDArray[np.float64]) -> None:
    """Add a frame's sums over ``2 half + 1`` bins around each bin, fewer at the edges."""
    bins = box.shape[0]
    inner = bins - 2 * half - 1
    for k in range(min(half, bins)):
        box[k] += sign * sums[min(bins, k + half + 1)]
    for k in range(max(half, bins - half - 1), bins):
        box[k] += sign * (sums[bins] - sums[k - half])
    if inner > 0:
        high, low = sums[2 * half + 1 : 2 * half + 1 + inner], sums[:inner]
        middle = box[half : half + inner]
        for k in range(inner):
            middle[k] += sign * (high[k] - low[k])


@kernel
def _weigh(mean: Frames, slope: Frames, offset: Frames, product: Frames) -> None:
    """Multiply ``product`` by the probability of absence, ``e / (1 + e)``.

    ``e = exp(offset - slope mean)``, the exponent held within limits.
    """
    one = np.float32(1.0)
    sure = np.float32(_SURE)
    small = np.float32(1.0 / 256.0)
    for k in range(mean.shape[0]):
        z = offset[k] - slope[k] * mean[k]
        z = max(min(z, sure), -sure)
        # exp(z) as (1 + z/256)^256: plain multiplications, exact enough where it decides.
        e = one + z * small
        e *= e
        e *= e
        e *= e
        e *= e
        e *= e
        e *= e
        e *= e
        e *= e
        product[k] *= e / (one + e)


@kernel
def _add_evidence(
    sums: Frames, time_half: int, freq_half: int, slope: Frames, offset: Frames, product: Frames
) -> None:
    """Take one neighbourhood into ``product``; boxes are narrower at the edges."""
    frames, bins = product.shape
    box = np.zeros(bins)
    mean = np.empty(bins, np.float32)
    share = np.empty(bins)
    for k in range(bins):
        share[k] = 1.0 / (min(bins, k + freq_half + 1) - max(0, k - freq_half))
    count = 0
    for t in range(min(time_half, frames)):
        _add_box(sums[t], freq_half, 1.0, box)
        count += 1
    for t in range(frames):
        if t + time_half < frames:
            _add_box(sums[t + time_half], freq_half, 1.0, box)
            count += 1
        if t - time_half - 1 >= 0:
            _add_box(sums[t - time_half - 1], freq_half, -1.0, box)
            count -= 1
        scale = 1.0 / count
        for k in range(bins):
            mean[k] = np.float32(box[k] * scale * share[k])
        _weigh(mean, slope, offset, product[t])


@kernel
def _spread(pairs: Frames, out: Frames) -> None:
    """Presence of every frame from the absence of every pair."""
    one = np.float32(1.0)
    for t in range(out.shape[0]):
        absent, row = pairs[t // 2], out[t]
        for k in range(row.shape[0]):
            row[k] = one - absent[k]


def presence(snr: Frames, hop_s: float, bin_hz: float, out: Frames) -> Frames:
    """Probability, 0..1, that the voice is present in any of the neighbourhoods.

    Neighbourhoods are long against a frame, so frames are taken in pairs. ``out`` is memory to
    answer in.
    """
    frames, bins = snr.shape
    pairs = (frames + 1) // 2
    sums = np.empty((pairs, bins + 1), np.float32)
    _running_sums(snr, float(_MOST_SNR), sums)
    absent = np.ones((pairs, bins), np.float32)
    position = np.arange(bins)
    for near in NEIGHBOURHOODS:
        time_half = max(1, round(near.time_s / hop_s / 4))
        freq_half = max(1, round(near.freq_hz / bin_hz / 2))
        prior = 10.0 ** (near.prior_db / 10.0)
        width = np.minimum(position + freq_half, bins - 1) - np.maximum(position - freq_half, 0) + 1
        values = np.maximum(1.0, width / _BINS_PER_VALUE) * max(
            1.0, 2 * (2 * time_half + 1) / _FRAMES_PER_VALUE
        )
        # Log of the likelihood ratio of "absent" over "present"; even odds beforehand.
        slope = (values * prior / (1.0 + prior)).astype(np.float32)
        offset = (values * math.log1p(prior)).astype(np.float32)
        _add_evidence(sums, time_half, freq_half, slope, offset, absent)
    _spread(absent, out)
    return out
