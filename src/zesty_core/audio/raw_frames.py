"""Frames of 24-bit WAV files, moved as the bytes they are and turned into numbers here.

The library's own conversion of 24-bit integers takes five times as long, and a run reads its
recording twice. Header, position and length stay the library's business.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
import soundfile
from numpy.typing import NDArray

from zesty_core.foundation.signal import Block
from zesty_core.runtime.kernel import kernel

SUBTYPE = "PCM_24"
#: Bytes of a sample.
WIDTH = 3
#: Samples of all channels that are moved together; a multiple of four.
_PART_SAMPLES = 1 << 16
_PART_WORDS = _PART_SAMPLES // 4 * 3
_TOP = np.float32(2.0**23)
_library: Any = soundfile._snd
_memory: Any = soundfile._ffi

Words = NDArray[np.uint32]
Row = NDArray[np.float32]
# Distances and masks within a word; plain integers would make it a longer one.
_BYTE, _TWO_BYTES, _THREE_BYTES = np.uint32(8), np.uint32(16), np.uint32(24)
_LOWEST, _LOWER_TWO, _LOWER_THREE = np.uint32(0xFF), np.uint32(0xFFFF), np.uint32(0xFFFFFF)
_SECOND, _SECOND_AND_THIRD = np.uint32(0xFF00), np.uint32(0xFFFF00)
_UPPER_THREE = np.uint32(0xFFFFFF00)


@kernel
def _to_floats(words: Words, out: Row) -> None:
    """Numbers of samples that follow each other, four in three words."""
    scale = np.float32(2.0**-31)
    for n in range(words.shape[0] // 3):
        first, second, third = words[3 * n], words[3 * n + 1], words[3 * n + 2]
        # Each in the upper three of its four bytes, so that the sign falls into place.
        a = first << _BYTE
        b = ((first >> _TWO_BYTES) & _SECOND) | (second << _TWO_BYTES)
        c = ((second >> _BYTE) & _SECOND_AND_THIRD) | (third << _THREE_BYTES)
        d = third & _UPPER_THREE
        out[4 * n], out[4 * n + 1] = (
            np.float32(np.int32(a)) * scale,
            np.float32(np.int32(b)) * scale,
        )
        out[4 * n + 2] = np.float32(np.int32(c)) * scale
        out[4 * n + 3] = np.float32(np.int32(d)) * scale


@kernel
def _nearest(sample: float) -> Any:
    """Bits of the nearest integer within range."""
    # A float32 holds 24 bits, so that nothing but the rounding is lost.
    scaled = np.rint(sample * _TOP)
    return np.uint32(np.int32(min(max(scaled, -_TOP), _TOP - np.float32(1.0))))


@kernel
def _to_words(samples: Row, words: Words) -> None:
    """Four samples into three words each."""
    for n in range(words.shape[0] // 3):
        a, b = _nearest(samples[4 * n]), _nearest(samples[4 * n + 1])
        c, d = _nearest(samples[4 * n + 2]), _nearest(samples[4 * n + 3])
        words[3 * n] = (a & _LOWER_THREE) | (b << _THREE_BYTES)
        words[3 * n + 1] = ((b >> _BYTE) & _LOWER_TWO) | (c << _TWO_BYTES)
        words[3 * n + 2] = ((c >> _TWO_BYTES) & _LOWEST) | (d << _BYTE)


@kernel
def _beyond(samples: Row) -> int:
    """How many lie beyond full scale."""
    count = 0
    for n in range(samples.shape[0]):
        count += 1 if abs(samples[n]) > np.float32(1.0) else 0
    return count


def _parts(frames: int, channels: int) -> Iterator[tuple[int, int]]:
    """Where parts of so many frames begin and end; a part stays in the processor's cache."""
    size = _PART_SAMPLES // channels
    for start in range(0, frames, size):
        yield start, min(start + size, frames)


def read_frames(file: soundfile.SoundFile, frames: int) -> Block:
    """The next ``frames`` as float32, shape (channels, frames); fewer at the end.

    The file is a little-endian one, and so is the machine.
    """
    channels, done = file.channels, 0
    words, samples = np.empty(_PART_WORDS, np.uint32), np.empty(_PART_SAMPLES, np.float32)
    out = np.empty((channels, frames), np.float32)
    for start, stop in _parts(frames, channels):
        wanted = (stop - start) * channels * WIDTH
        there = max(0, _library.sf_read_raw(file._file, _memory.from_buffer(words), wanted))
        _to_floats(words, samples)
        done = start + there // (channels * WIDTH)
        for channel, row in enumerate(out):
            row[start:done] = samples[channel : (done - start) * channels : channels]
        if there < wanted:
            break
    return np.ascontiguousarray(out[:, :done])


def write_frames(file: soundfile.SoundFile, block: Block) -> int:
    """Append a block, shape (channels, frames), rounded to the nearest integers and held in range.

    Returns how many samples lay beyond full scale.

    Raises
    ------
    OSError
        Not all of it could be written.
    """
    channels, beyond = len(block), 0
    words, samples = np.empty(_PART_WORDS, np.uint32), np.zeros(_PART_SAMPLES, np.float32)
    for start, stop in _parts(block.shape[1], channels):
        count = (stop - start) * channels
        for channel, row in enumerate(block):
            samples[channel:count:channels] = row[start:stop]
        _to_words(samples, words)
        beyond += int(_beyond(samples[:count]))
        size = count * WIDTH
        if _library.sf_write_raw(file._file, _memory.from_buffer(words), size) != size:
            raise OSError(_memory.string(_library.sf_strerror(file._file)).decode())
    return beyond
