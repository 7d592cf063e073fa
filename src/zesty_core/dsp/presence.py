"""Where in time and frequency a voice is present at all.

The a-posteriori SNR, averaged over three neighbourhoods, is weighed against what speech would give
there, with fixed priors (after Gerkmann, Breithaupt & Martin 2008). The voice counts as present
where any of the three finds it: in pauses all of them agree that it is not, so pauses stay steady,
and no weak sound of a word is lost to one that misses it. Where the room itself comes and goes, as its
room tone tells, more is asked for.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.box_means import means_between, means_over_time, running_sums
from zesty_core.dsp.spectral import BINS_PER_VALUE, FRAMES_PER_VALUE
from zesty_core.runtime.kernel import kernel

Frames = NDArray[np.float32]

#: A-posteriori SNR beyond this says nothing more about presence, but would leak into neighbours.
_MOST_SNR = np.float32(40.0)
_SURE = 12.0
#: Below this nothing tells of a voice: what stirs there is rumble, and a frame sees too little of it to
#: know it from a voice. What lies above decides there too.
_LOWEST_HZ = 80.0
#: In a room that is not steady a voice must stand out by so many deviations, from the share of
#: time below which it mostly is (0.8 of a normal distribution lie below 0.84 deviations).
_APART, _HIGH_SHARE, _HIGH_DEVIATIONS = 4.0, 0.8, 0.8416
_CAUTION_STEP = 4


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


@kernel
def _running_sums(snr: Frames, lowest: int, pad: int, out: Frames) -> None:
    """Per pair of frames the sum of all bins from ``lowest`` up to each bin, none taken for more than
    it says.

    ``pad`` columns stand on either side, as if there were nothing beyond the edges. Four pairs at a
    time, none of whose sums waits for another.
    """
    limit, half = _MOST_SNR, np.float32(0.5)
    pairs, bins, last = out.shape[0], snr.shape[1], snr.shape[0] - 1
    held = np.empty((4, bins), np.float32)
    for first in range(0, pairs, 4):
        some = min(4, pairs - first)
        for p in range(some):
            one, other = snr[2 * (first + p)], snr[min(2 * (first + p) + 1, last)]
            row = held[p]
            for k in range(bins):
                row[k] = half * (min(one[k], limit) + min(other[k], limit))
            row[:lowest] = np.float32(0.0)
        a, b, c, d = 0.0, 0.0, 0.0, 0.0
        h0, h1, h2, h3 = held[0], held[1], held[2], held[3]
        o0, o1 = out[first], out[first + min(1, some - 1)]
        o2, o3 = out[first + min(2, some - 1)], out[first + min(3, some - 1)]
        for k in range(bins):
            # From the last pair to the first: where there are fewer than four, the first is right.
            d += h3[k]
            o3[pad + 1 + k] = np.float32(d)
            c += h2[k]
            o2[pad + 1 + k] = np.float32(c)
            b += h1[k]
            o1[pad + 1 + k] = np.float32(b)
            a += h0[k]
            o0[pad + 1 + k] = np.float32(a)
        for p in range(some):
            row = out[first + p]
            for k in range(pad + 1):
                row[k] = np.float32(0.0)
                row[pad + bins + k] = row[pad + bins]


@kernel
def _absence(
    entering: Frames,
    leaving: Frames,
    width: int,
    scale: float,
    slope: Frames,
    offset: Frames,
    box: Frames,
    product: Frames,
) -> None:
    """Move the box on by one pair and multiply ``product`` by the probability of absence.

    ``entering`` and ``leaving`` are running sums that begin where the first bin's box does. Absence
    is ``e / (1 + e)`` with ``e = exp(offset - slope mean)``, the exponent held within limits.
    """
    bins = product.shape[0]
    one, sure, small = np.float32(1.0), np.float32(_SURE), np.float32(1.0 / 256.0)
    factor = np.float32(scale)
    low_in, high_in = entering[:bins], entering[width : width + bins]
    low_out, high_out = leaving[:bins], leaving[width : width + bins]
    for k in range(bins):
        now = box[k] + ((high_in[k] - low_in[k]) - (high_out[k] - low_out[k]))
        box[k] = now
        z = offset[k] - slope[k] * (now * factor)
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
    sums: Frames,
    time_half: int,
    freq_half: int,
    pad: int,
    slope: Frames,
    offset: Frames,
    product: Frames,
) -> None:
    """Take one neighbourhood into ``product``; boxes are narrower at the edges."""
    pairs, bins = product.shape
    width, start = 2 * freq_half + 1, pad - freq_half
    box = np.zeros(bins, np.float32)
    nothing = np.zeros(sums.shape[1], np.float32)
    for t in range(min(time_half, pairs)):
        row = sums[t, start:]
        for k in range(bins):
            box[k] += row[k + width] - row[k]
    for t in range(pairs):
        first, last = max(0, t - time_half), min(pairs - 1, t + time_half)
        entering = sums[t + time_half] if t + time_half < pairs else nothing
        leaving = sums[t - time_half - 1] if t > time_half else nothing
        _absence(
            entering[start:],
            leaving[start:],
            width,
            1.0 / (last - first + 1),
            slope,
            offset,
            box,
            product[t],
        )


@dataclass(frozen=True)
class _Boxes:
    """One neighbourhood of every bin: narrower at the edges, and none of it below the lowest bin."""

    time_half: int
    freq_half: int
    first: NDArray[np.int64]
    width: NDArray[np.int64]
    values: NDArray[np.float64]
    prior: float

    @property
    def decides_at(self) -> float:
        """Mean SNR at which a voice is as likely as not."""
        return (1.0 + self.prior) / self.prior * math.log1p(self.prior)


def _all_boxes(bins: int, hop_s: float, bin_hz: float) -> tuple[int, list[_Boxes]]:
    """The lowest bin that tells anything, and the boxes of each neighbourhood."""
    halves = [max(1, round(near.freq_hz / bin_hz / 2)) for near in NEIGHBOURHOODS]
    # The narrowest box about the first bin still reaches it.
    lowest = min(math.ceil(_LOWEST_HZ / bin_hz), *halves)
    position, boxes = np.arange(bins), []
    for near, freq_half in zip(NEIGHBOURHOODS, halves, strict=True):
        time_half = max(1, round(near.time_s / hop_s / 4))
        first = np.maximum(position - freq_half, lowest)
        width = np.minimum(position + freq_half, bins - 1) - first + 1
        values = np.maximum(1.0, width / BINS_PER_VALUE) * max(
            1.0, 2 * (2 * time_half + 1) / FRAMES_PER_VALUE
        )
        prior = 10.0 ** (near.prior_db / 10.0)
        boxes.append(_Boxes(time_half, freq_half, first, width, values, prior))
    return lowest, boxes


def _box_means(sums: NDArray[np.float64], boxes: _Boxes, every: int = 1) -> NDArray[np.float64]:
    """Mean over the bins of the box about every so-manyth bin, for each row of running sums."""
    first, width = boxes.first[::every], boxes.width[::every]
    return means_between(sums, first, first + width)


def presence_threshold_scale(snr: Frames, hop_s: float, bin_hz: float) -> Frames:
    """How many times the usual SNR tells of a voice in this room, (neighbourhoods, bins), from 1 on.

    ``snr`` is that of the room tone, (frames, bins), relative to its mean. Steady noise hardly
    moves within a neighbourhood. Water, a fire or a machine at work does, and would be taken for a
    voice: there the decision lies as many deviations over the mean as it takes to tell them apart.

    Parameters
    ----------
    snr : array, shape (frames, bins)
        Power of the room tone over its own mean.
    hop_s : float
        Time from frame to frame.
    bin_hz : float
        Distance from bin to bin.

    Returns
    -------
    scale : array, shape (neighbourhoods, bins)
        Factors from 1 on.
    """
    frames, bins = snr.shape
    held = np.minimum(snr, _MOST_SNR)
    # In pairs, as a voice is looked for; the last of an odd number has none.
    pairs = (held[0 : frames - 1 : 2] + held[1:frames:2]) / 2 if frames > 1 else held
    sums, found = running_sums(pairs), []
    for boxes in _all_boxes(bins, hop_s, bin_hz)[1]:
        # Boxes are wide: some of them tell of all.
        means = means_over_time(_box_means(sums, boxes, _CAUTION_STEP), boxes.time_half)
        # A quantile hears neither a click nor one breath in the sample.
        high = np.quantile(means, _HIGH_SHARE, axis=0)
        high = np.interp(np.arange(bins), np.arange(0, bins, _CAUTION_STEP), high)
        moves = (_box_means(running_sums(high[None]), boxes)[0] - 1.0) / _HIGH_DEVIATIONS
        steady = 1.0 / np.sqrt(boxes.values)
        usual = np.maximum(boxes.decides_at, 1.0 + _APART * steady)
        found.append(np.maximum(1.0, (1.0 + _APART * np.maximum(moves, steady)) / usual))
    return np.array(found, np.float32)


def neutral_threshold_scale(bins: int) -> Frames:
    """Scale for a room that is steady, or of which nothing was learned."""
    return np.ones((len(NEIGHBOURHOODS), bins), np.float32)


def absence(snr: Frames, threshold_scale: Frames, hop_s: float, bin_hz: float) -> Frames:
    """Probability, 0..1, that the voice is present in none of the neighbourhoods.

    ``threshold_scale`` is what :func:`presence_threshold_scale` found in the room tone.
    Neighbourhoods are long against a frame, so frames are taken in pairs, a row for each.

    Parameters
    ----------
    snr : array, shape (frames, bins)
        Power over the noise expected.
    threshold_scale : array, shape (neighbourhoods, bins)
        From the room tone.
    hop_s : float
        Time from frame to frame.
    bin_hz : float
        Distance from bin to bin.

    Returns
    -------
    absence : array, shape (frames, bins)
        Probabilities; frames in pairs share one.

    References
    ----------
    Gerkmann, Breithaupt and Martin 2008.
    """
    frames, bins = snr.shape
    pairs = (frames + 1) // 2
    lowest, neighbourhoods = _all_boxes(bins, hop_s, bin_hz)
    pad = max(boxes.freq_half for boxes in neighbourhoods)
    sums = np.empty((pairs, bins + 1 + 2 * pad), np.float32)
    _running_sums(snr, lowest, pad, sums)
    absent = np.ones((pairs, bins), np.float32)
    for boxes, times in zip(neighbourhoods, threshold_scale, strict=True):
        # Log of the likelihood ratio of "absent" over "present"; even odds beforehand.
        share = boxes.prior / (1.0 + boxes.prior)
        slope = (boxes.values * share / boxes.width / times).astype(np.float32)
        offset = (boxes.values * math.log1p(boxes.prior)).astype(np.float32)
        _add_evidence(sums, boxes.time_half, boxes.freq_half, pad, slope, offset, absent)
    return absent
