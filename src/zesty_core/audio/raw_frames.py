"""Frames of 24-bit WAV files, moved as the bytes they are and turned into numbers here.

The library's own conversion of 24-bit integers takes five times as long, and a run reads its
recording twice. Header, position and length stay the library's business.
"""

from __future__ import annotations

from typing import Any

import numpy as np
import soundfile
from numpy.typing import NDArray

from zesty_core.dsp.kernel import kernel
from zesty_core.signal import Block

SUBTYPE = "PCM_24"
#: Bytes of a sample.
WIDTH = 3
_TOP = np.float32(2.0**23)
_library: Any = soundfile._snd
_memory: Any = soundfile._ffi

Bytes = NDArray[np.uint8]


@kernel
def _to_floats(low: Bytes, middle: Bytes, high: Bytes, out: Block) -> None:
    """Numbers of which each of the three rows holds a byte."""
    scale = np.float32(2.0**-31)
    for n in range(out.shape[0]):
        # In the upper three of four bytes, so that the sign falls into place.
        bits = (np.int32(low[n]) << 8) | (np.int32(middle[n]) << 16) | (np.int32(high[n]) << 24)
        out[n] = np.float32(np.int32(bits)) * scale


@kernel
def _to_bytes(samples: Block, low: Bytes, middle: Bytes, high: Bytes) -> int:
    """Nearest integers within range; the answer counts what lay beyond full scale."""
    beyond = 0
    for n in range(samples.shape[0]):
        beyond += 1 if abs(samples[n]) > np.float32(1.0) else 0
        # A float32 holds 24 bits, so that nothing but the rounding is lost.
        scaled = np.rint(samples[n] * _TOP)
        bits = np.int32(min(max(scaled, -_TOP), _TOP - np.float32(1.0)))
        low[n] = np.uint8(bits & 255)
        middle[n] = np.uint8((bits >> 8) & 255)
        high[n] = np.uint8((bits >> 16) & 255)
    return beyond


def _rows(raw: Bytes, channel: int, channels: int) -> tuple[Bytes, Bytes, Bytes]:
    """Lowest, middle and highest byte of each sample of a channel."""
    low, middle, high = (raw[WIDTH * channel + k :: WIDTH * channels] for k in range(WIDTH))
    return low, middle, high


def read_frames(file: soundfile.SoundFile, frames: int) -> Block:
    """The next ``frames`` as float32, shape (channels, frames); fewer at the end.

    The file is a little-endian one.
    """
    channels = file.channels
    raw = np.empty(frames * channels * WIDTH, np.uint8)
    read = _library.sf_read_raw(file._file, _memory.from_buffer(raw), len(raw))
    out = np.empty((channels, max(0, read) // (channels * WIDTH)), np.float32)
    for channel in range(channels):
        _to_floats(*_rows(raw, channel, channels), out[channel])
    return out


def write_frames(file: soundfile.SoundFile, block: Block) -> int:
    """Append a block, shape (channels, frames), rounded to the nearest integers and held in range.

    Returns how many samples lay beyond full scale.

    Raises
    ------
    OSError
        Not all of it could be written.
    """
    channels, frames = block.shape
    raw = np.empty(frames * channels * WIDTH, np.uint8)
    beyond = sum(_to_bytes(block[c], *_rows(raw, c, channels)) for c in range(channels))
    if _library.sf_write_raw(file._file, _memory.from_buffer(raw), len(raw)) != len(raw):
        raise OSError(_memory.string(_library.sf_strerror(file._file)).decode())
    return beyond
