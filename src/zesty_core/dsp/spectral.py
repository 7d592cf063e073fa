"""Short-time spectra in independent chunks, so that they can be worked on in parallel.

Frames are Hann-windowed twice (analysis and synthesis) and overlap by two thirds, which adds up to a
constant 1.125 (perfect reconstruction) and is the least that does. A signal is cut into chunks of some
hundred hops, what is left at its end into equal ones, so that several threads end together;
each is transformed with some frames of context on both sides. Where it is cut depends on its length
alone, not on how it arrives or on how many threads there are, so neither do the results.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from functools import lru_cache
from itertools import chain
from typing import NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.transforms import fast_length, rows_of, spectra_of
from zesty_core.foundation.signal import Block
from zesty_core.runtime.cores import cores
from zesty_core.runtime.denormals import flush_to_zero
from zesty_core.runtime.kernel import kernel

#: Frames in a chunk, by channels. Longer ones repeat less context, shorter ones take less memory.
_CHUNK_FRAMES = {1: 1152, 2: 256}
_WINDOW_S = 0.032
#: Frames that overlap anywhere.
OVERLAP = 3
OVERLAP_SUM = 0.375 * OVERLAP
#: Bins under a Hann window, and frames at this overlap, that carry one independent value.
BINS_PER_VALUE, FRAMES_PER_VALUE = 1.8, 1.65
_BATCH_FRAMES = 48
#: So many chunks are held back for the end, and what is left then is cut in two or four.
_HELD_CHUNKS = 3
_SHORTEST_CUT, _LONGEST_HALVED = 0.5, 3.2


class Shaping(NamedTuple):
    """What is to be done to frames: the gain of every bin, shape (frames, bins), and the power of the
    noise before it, (bins,) or (frames, bins); none where nothing is known of it."""

    gains: NDArray[np.float32]
    noise: NDArray[np.floating] | None = None


#: Power spectra in, (frames, bins), gains out. The first frame's index is given.
GainRule = Callable[[NDArray[np.float32], int], Shaping]


class Mixer(Protocol):
    """Works on frames that have their gains, in place: the arguments are those of ``PitchComb.mix``.

    The first and last ``reach_frames`` frames need not come out right.
    """

    reach_frames: int

    def mix(
        self,
        spectra: NDArray[np.complex64],
        gains: NDArray[np.float32],
        noise: NDArray[np.floating],
    ) -> None:
        """Do it."""


_pool: ThreadPoolExecutor | None = None


def workers() -> int:
    """Threads that work on chunks."""
    return min(4, cores())


def _shared_pool() -> ThreadPoolExecutor:
    global _pool  # noqa: PLW0603 - one pool per process, made when first needed
    if _pool is None:
        _pool = ThreadPoolExecutor(workers(), "spectral", initializer=flush_to_zero)
    return _pool


@lru_cache
def window_samples(sample_rate_hz: int) -> int:
    """About 32 ms: an even number of samples from frame to frame, and only small prime factors."""
    wanted = _WINDOW_S * sample_rate_hz
    step = 2 * OVERLAP
    near = [n for n in range(step, 8192, step) if fast_length(n) == n]
    return min(near, key=lambda n: abs(n - wanted))


def hann(samples: int) -> NDArray[np.float32]:
    """Periodic Hann window."""
    return np.asarray(
        0.5 - 0.5 * np.cos(2 * np.pi * np.arange(samples) / samples), dtype=np.float32
    )


@kernel
def cut_frames(samples: Block, window: Block, hop: int, first: int, out: Block) -> None:
    """Windowed frames ``first``, ``first + 1`` ... into the rows of ``out``.

    Parameters
    ----------
    samples : array, shape (samples,)
        One channel.
    window : array, shape (window,)
        Weights of a frame.
    hop : int
        Samples from frame to frame.
    first : int
        Number of the first frame; it begins at ``first * hop``.
    out : array, shape (frames, window)
        Where the frames are put.
    """
    size = window.shape[0]
    for t in range(out.shape[0]):
        start = (first + t) * hop
        piece, row = samples[start : start + size], out[t]
        for n in range(row.shape[0]):
            row[n] = piece[n] * window[n]


@kernel
def overlap_add(frames: Block, window: Block, first: int, hop: int, out: Block) -> None:
    """Add windowed ``frames`` into ``out``, the first at hop ``first`` (cut off where outside).

    Parameters
    ----------
    frames : array, shape (frames, window)
        Frames of real samples.
    window : array, shape (window,)
        Weights of a frame.
    first : int
        Hop at which the first frame begins; may be negative.
    hop : int
        Samples from frame to frame.
    out : array, shape (samples,)
        What the frames are added to.
    """
    size = window.shape[0]
    for t in range(frames.shape[0]):
        start = (first + t) * hop
        low = -start if start < 0 else 0
        high = out.shape[0] - start if start + size > out.shape[0] else size
        if high <= low:
            continue
        piece, shape, into = frames[t, low:high], window[low:high], out[start + low : start + high]
        for n in range(piece.shape[0]):
            into[n] += piece[n] * shape[n]


@kernel
def add_power(parts: Block, scale: float, power: Block) -> None:
    """Add ``scale`` times the squared magnitude of ``parts`` (frames, bins, re/im) to ``power``."""
    factor = np.float32(scale)
    for t in range(parts.shape[0]):
        row, into = parts[t], power[t]
        for k in range(into.shape[0]):
            re, im = row[2 * k], row[2 * k + 1]
            into[k] += factor * (re * re + im * im)


@kernel
def _shape(parts: Block, gains: Block) -> None:
    """Multiply interleaved complex rows by real gains."""
    for t in range(parts.shape[0]):
        row, gain = parts[t], gains[t]
        for k in range(gain.shape[0]):
            row[2 * k] *= gain[k]
            row[2 * k + 1] *= gain[k]


def _batches(
    samples: Block, window: Block, frames: range, out: NDArray[np.complex64] | None = None
) -> Iterator[tuple[range, NDArray[np.complex64]]]:
    """Spectra of some frames, a few at a time so that they stay in the processor's cache.

    Each time with the numbers of these frames; put into the rows of ``out`` if there is one.
    """
    hop = len(window) // OVERLAP
    for first in range(0, len(frames), _BATCH_FRAMES):
        some = frames[first : first + _BATCH_FRAMES]
        batch = np.empty((len(some), len(window)), np.float32)
        cut_frames(samples, window, hop, some.start, batch)
        into = None if out is None else out[first : first + len(some)]
        yield some, spectra_of(batch, into)


def frame_spectra(
    samples: NDArray[np.float32], window: NDArray[np.float32]
) -> NDArray[np.complex64]:
    """Spectra of all whole frames of a signal, shape (frames, bins).

    Parameters
    ----------
    samples : array, shape (samples,)
        One channel.
    window : array, shape (window,)
        Weights of a frame; hops are a third of it.

    Returns
    -------
    spectra : array, shape (frames, bins)
        Complex, unscaled.
    """
    count = max(0, (len(samples) - len(window)) // (len(window) // OVERLAP) + 1)
    spectra = np.empty((count, len(window) // 2 + 1), np.complex64)
    for _ in _batches(samples, window, range(count), spectra):
        pass
    return spectra


class SpectralProcessor:
    """Multiplies the short-time spectrum of a signal by the gains of a rule.

    ``rule`` gets the power of the frames (mean over channels, so that channels share one gain) and
    the number of its first frame; frame ``t`` starts ``OVERLAP - 1`` hops before sample ``t * hop``.
    ``frames_before`` and ``frames_after`` are the context it wants. ``mixer`` works on what comes out
    where the rule gives the noise. ``chunk_frames`` is even, and long against the context.
    """

    def __init__(
        self,
        sample_rate_hz: int,
        channels: int,
        rule: GainRule,
        frames_before: int,
        frames_after: int,
        mixer: Mixer | None = None,
        chunk_frames: int | None = None,
    ) -> None:
        size = window_samples(sample_rate_hz)
        self.hop = size // OVERLAP
        self._window = hann(size)
        self._rule, self._mixer = rule, mixer
        self._before, self._after = frames_before, frames_after
        self._chunk = (chunk_frames or _CHUNK_FRAMES[channels]) * self.hop
        self._lead = (frames_before + OVERLAP - 1) * self.hop
        self._tail = (OVERLAP - 1 + frames_after) * self.hop
        # Silence stands before the first sample for the first chunk's context.
        self._line: deque[Block] = deque([np.zeros((channels, self._lead), np.float32)])
        self._channels = channels
        self._held = self._lead
        self._begun = self._received = self._given = 0
        self._running: deque[Future[Block]] = deque()

    def push(self, block: Block) -> Block:
        """Take a block, give the chunks that are done."""
        self._received += block.shape[1]
        self._take(block)
        return self._ready(wait=False)

    def finish(self) -> Block:
        """Give all that is left."""
        left = self._received - self._begun
        if left > 0:
            length = self._last_length(left)
            end = self._lead + -(-left // length) * length + self._tail
            self._take(np.zeros((self._channels, max(0, end - self._held)), np.float32))
            while self._begun < self._received:
                self._begin(length)
        out = self._ready(wait=True)
        surplus = max(0, self._given - self._received)
        return out[:, : out.shape[1] - surplus]

    def _last_length(self, left: int) -> int:
        """Length of the chunks at the end, when ``left`` samples are left: whole pairs of frames."""
        share = left / self._chunk
        parts = 1 if share <= _SHORTEST_CUT else 2 if share <= _LONGEST_HALVED else 4
        pair = 2 * self.hop
        return -(-left // (parts * pair)) * pair

    def _take(self, block: Block) -> None:
        self._line.append(block)
        self._held += block.shape[1]
        while self._received - self._begun >= (1 + _HELD_CHUNKS) * self._chunk:
            self._begin(self._chunk)

    def _begin(self, length: int) -> None:
        """Start on the next chunk, of ``length`` samples."""
        wanted, some = self._lead + length + self._tail, []
        for block in self._line:
            some.append(block[:, :wanted])
            wanted -= some[-1].shape[1]
        piece = np.concatenate(some, axis=1)
        self._running.append(self._started(piece, self._begun // self.hop))
        self._begun += length
        self._held -= length
        while self._line and self._line[0].shape[1] <= length:
            length -= self._line.popleft().shape[1]
        if length:
            self._line[0] = self._line[0][:, length:]

    def _started(self, piece: Block, frame: int) -> Future[Block]:
        if workers() > 1:
            return _shared_pool().submit(self._work, piece, frame)
        done: Future[Block] = Future()
        done.set_result(self._work(piece, frame))
        return done

    def _ready(self, wait: bool) -> Block:
        out: list[Block] = []
        # A few chunks ahead keep all threads busy; more would only take memory.
        while self._running and (wait or len(self._running) > workers() or self._running[0].done()):
            out.append(self._running.popleft().result())
            self._given += out[-1].shape[1]
        if len(out) == 1:
            return out[0]
        return np.concatenate([np.zeros((self._channels, 0), np.float32), *out], axis=1)

    def _work(self, piece: Block, frame: int) -> Block:
        """A chunk whose own frames begin with ``frame``."""
        size = len(self._window)
        length = piece.shape[1] - self._lead - self._tail
        frames = (piece.shape[1] - size) // self.hop + 1
        begin, end = self._before, self._before + length // self.hop + OVERLAP - 1
        power = np.zeros((frames, size // 2 + 1), np.float32)
        reach = self._mixer.reach_frames if self._mixer else 0
        # Of the frames of context further away the power is all that is needed.
        kept = range(max(0, begin - reach), min(frames, end + reach))
        spectra = np.empty((len(piece), len(kept), size // 2 + 1), np.complex64)
        for samples, into in zip(piece, spectra, strict=True):
            for batch, some in chain(
                _batches(samples, self._window, range(kept.start)),
                _batches(samples, self._window, kept, into),
                _batches(samples, self._window, range(kept.stop, frames)),
            ):
                add_power(some.view(np.float32), 1.0 / len(piece), power[batch.start :])
        gains, noise = self._rule(power, frame - self._before)
        gains = gains[kept.start : kept.stop]
        for channel in spectra:
            _shape(channel.view(np.float32), gains)
        if self._mixer and noise is not None:
            noise = noise[kept.start : kept.stop] if noise.ndim > 1 else noise
            self._mixer.mix(spectra, gains, noise)
        out = np.zeros((len(piece), length), np.float32)
        scaled = self._window / np.float32(OVERLAP_SUM)
        own = spectra[:, begin - kept.start : end - kept.start]
        for channel, samples in zip(own, out, strict=True):
            for first in range(0, len(channel), _BATCH_FRAMES):
                made = rows_of(channel[first : first + _BATCH_FRAMES], size)
                overlap_add(made, scaled, first - (OVERLAP - 1), self.hop, samples)
        return out
