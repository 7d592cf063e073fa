"""Waveform overview: lowest, highest and RMS value per bin, at several resolutions.

Level 0 has bins of 256 samples, every further level four times as long. Channels are merged. Kept
as one ``.npy`` array of shape (bins of all levels, 3), float32; the levels follow from the length.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.signal import Block, Source
from zesty_core.runtime.kernel import kernel

BIN_SAMPLES = 256
_FOLD = 4
_LEAST_BINS = 512


@kernel
def _fill(block: Block, bin_samples: int, carry: NDArray[np.float64], out: Block) -> int:
    """``carry``: lowest, highest, sum of squares, samples in the open bin. Returns bins completed."""
    done = 0
    low, high, energy, filled = carry[0], carry[1], carry[2], carry[3]
    for n in range(block.shape[1]):
        for channel in range(block.shape[0]):
            v = np.float64(block[channel, n])
            low = v if v < low else low
            high = v if v > high else high
            energy += v * v
        filled += 1
        if filled == bin_samples:
            out[done, 0] = low
            out[done, 1] = high
            out[done, 2] = np.sqrt(energy / (bin_samples * block.shape[0]))
            done += 1
            low, high, energy, filled = np.inf, -np.inf, 0.0, 0.0
    carry[0], carry[1], carry[2], carry[3] = low, high, energy, filled
    return done


class OverviewMaker:
    """Collects bins while sound passes by."""

    def __init__(self, channels: int) -> None:
        self._channels = channels
        self._carry = np.array([np.inf, -np.inf, 0.0, 0.0])
        self._bins: list[Block] = []

    def push(self, block: Block) -> None:
        """Take the next block into account."""
        out = np.empty((block.shape[1] // BIN_SAMPLES + 1, 3), np.float32)
        done = _fill(block, BIN_SAMPLES, self._carry, out)
        self._bins.append(out[:done])

    def finish(self) -> Block:
        """All levels in one array."""
        low, high, energy, filled = self._carry
        if filled:
            rms = np.sqrt(energy / (filled * self._channels))
            self._bins.append(np.array([[low, high, rms]], np.float32))
        return self._levels(0)

    def so_far(self, length_samples: int) -> Block:
        """What is known of a signal of ``length_samples`` while it is still read; the rest is flat."""
        return self._levels(-(-length_samples // BIN_SAMPLES))

    def _levels(self, least_bins: int) -> Block:
        level = np.concatenate([np.zeros((0, 3), np.float32), *self._bins])
        missing = max(0, least_bins - len(level))
        level = np.concatenate([level, np.zeros((missing, 3), np.float32)])
        levels = [level]
        while len(level) > _LEAST_BINS:
            level = _folded(level)
            levels.append(level)
        return np.concatenate(levels)


def _folded(level: Block) -> Block:
    """Next coarser level."""
    short = -len(level) % _FOLD
    padded = np.concatenate([level, np.repeat(level[-1:], short, axis=0)]).reshape(-1, _FOLD, 3)
    low, high = padded[..., 0].min(axis=1), padded[..., 1].max(axis=1)
    return np.stack([low, high, np.sqrt(np.mean(padded[..., 2] ** 2, axis=1))], axis=1)


@dataclass(frozen=True)
class OverviewSlice:
    """Bins of one level that cover a stretch: ``bins`` is (n, 3)."""

    bin_samples: int
    #: Place of the first bin, in bins from the start of the signal.
    first_bin: float
    bins: Block


def fine_overview(source: Source, start: int, stop: int, most_bins: int) -> OverviewSlice:
    """Samples ``start..stop`` in bins finer than those kept, read from the sound itself."""
    bin_samples = max(1, -(-(stop - start) // most_bins))
    sound = source.read(start, stop)
    short = -sound.shape[1] % bin_samples
    padded = np.concatenate([sound, np.repeat(sound[:, -1:], short, axis=1)], axis=1)
    bins = padded.reshape(len(sound), -1, bin_samples)
    low, high = bins.min(axis=(0, 2)), bins.max(axis=(0, 2))
    rms = np.sqrt(np.square(bins, dtype=np.float64).mean(axis=(0, 2)))
    return OverviewSlice(bin_samples, start / bin_samples, np.stack([low, high, rms], axis=1))


def read_overview(
    path: Path, length_samples: int, start: int, stop: int, most_bins: int
) -> OverviewSlice:
    """Finest level that shows samples ``start..stop`` in at most ``most_bins`` bins.

    Raises :class:`BrokenOverview` for a file that is none of a signal of this length.
    """
    if not 0 <= start < stop <= max(length_samples, 1):
        raise BadInput(f"span: {start} to {stop} must lie within 0 and {length_samples} samples")
    array = _loaded(path, length_samples)
    offset, size, bin_samples = 0, -(-length_samples // BIN_SAMPLES), BIN_SAMPLES
    while True:
        first, last = start // bin_samples, -(-stop // bin_samples)
        coarsest = size <= _LEAST_BINS
        if last - first <= most_bins or coarsest:
            bins = np.array(array[offset + first : offset + min(last, size)])
            return OverviewSlice(bin_samples, first, bins)
        offset, size, bin_samples = offset + size, -(-size // _FOLD), bin_samples * _FOLD


class BrokenOverview(Exception):  # noqa: N818 - whoever reads it makes it anew
    """The file holds no overview of its signal."""


def _loaded(path: Path, length_samples: int) -> Block:
    try:
        array: Block = np.load(path, mmap_mode="r")
    except (OSError, ValueError, EOFError) as fault:
        raise BrokenOverview(f"{path.name}: {fault}") from None
    size = rows = -(-length_samples // BIN_SAMPLES)
    while size > _LEAST_BINS:
        size = -(-size // _FOLD)
        rows += size
    if array.shape != (rows, 3) or array.dtype != np.float32:
        raise BrokenOverview(f"{path.name}: holds {array.shape} values, must be {(rows, 3)}")
    return array


def make_overview(source: Source) -> Block:
    """All levels of a whole signal."""
    maker = OverviewMaker(source.info.channels)
    for block in source.blocks():
        maker.push(block)
    return maker.finish()
