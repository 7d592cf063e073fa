"""Writing WAV and FLAC: under a temporary name first, then renamed, so nothing is half-written.

Reduction to 16 bit adds triangular dither of two quantisation steps' width
(Lipshitz, Wannamaker & Vanderkooy 1992), from a fixed seed so that bytes repeat.
"""

from __future__ import annotations

import errno
import os
import shutil
from pathlib import Path
from types import TracebackType
from typing import Self

import numpy as np
import soundfile

from zesty_core.audio.reader import FileFormat
from zesty_core.errors import BadInput, UnwritableAudio
from zesty_core.signal import Block

WRITABLE = {".wav": "WAV", ".flac": "FLAC"}
_DITHER_SEED = 20_240_229
_RIFF_LIMIT_BYTES = 4_000_000_000
_LITTLE_SPACE_BYTES = 1_000_000


def container_for(path: Path) -> str:
    """Container by the file's ending."""
    try:
        return WRITABLE[path.suffix.lower()]
    except KeyError:
        raise BadInput(
            f"{path.name}: the ending must be one of {', '.join(WRITABLE)}", path="out"
        ) from None


def depth_for(source: FileFormat, container: str) -> str:
    """Sample format that loses nothing the chain made: 24 bit, or float where the source was."""
    if container == "FLAC":
        return "PCM_24"
    return {"FLOAT": "FLOAT", "DOUBLE": "FLOAT", "PCM_32": "FLOAT"}.get(source.subtype, "PCM_24")


class AudioWriter:
    """Context that writes blocks to ``path``; on any error inside, nothing is left behind.

    ``clipped_samples`` counts samples beyond full scale that an integer format had to cut.
    """

    def __init__(
        self,
        path: Path,
        sample_rate_hz: int,
        channels: int,
        subtype: str = "PCM_24",
        *,
        dither: bool = True,
        length_samples: int = 0,
    ) -> None:
        self.path = path
        self.clipped_samples = 0
        self._temporary = path.with_name(f".{path.name}.{os.getpid()}.part")
        self._subtype = subtype
        self._container = container_for(path)
        if self._container == "WAV" and length_samples * channels * 4 > _RIFF_LIMIT_BYTES:
            self._container = "RF64"
        self._rate, self._channels = sample_rate_hz, channels
        self._noise = np.random.default_rng(_DITHER_SEED)
        self._dithers = dither and subtype == "PCM_16"
        self._file: soundfile.SoundFile | None = None

    def __enter__(self) -> Self:
        try:
            self._file = soundfile.SoundFile(
                str(self._temporary),
                "w",
                self._rate,
                self._channels,
                self._subtype,
                format=self._container,
            )
        except (soundfile.SoundFileError, OSError) as fault:
            self._discard()
            raise self._fault(fault) from None
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        assert self._file is not None
        try:
            # Closing writes what is buffered and the final header, so it can fail as well.
            self._file.close()
            if kind is None:
                with self._temporary.open("rb+") as written:
                    os.fsync(written.fileno())
                self._temporary.replace(self.path)
        except (soundfile.SoundFileError, OSError) as fault:
            if kind is None:
                raise self._fault(fault) from None
        finally:
            self._discard()

    def write(self, block: Block) -> None:
        """Append a block of shape (channels, samples)."""
        assert self._file is not None
        frames = block.T
        if self._subtype not in ("FLOAT", "DOUBLE"):
            frames = self._fitted(frames)
        try:
            self._file.write(frames)
        # The binding asserts that all frames went out; a full disk shows as AssertionError.
        except (soundfile.SoundFileError, OSError, AssertionError) as fault:
            raise self._fault(fault) from None

    def _fitted(self, frames: Block) -> Block:
        over = np.abs(frames) > 1.0
        self.clipped_samples += int(np.count_nonzero(over))
        if self._dithers:
            shape = frames.shape
            step = 1.0 / 32_768.0
            triangle = self._noise.random(shape) - self._noise.random(shape)
            frames = frames + (triangle * step).astype(np.float32)
            # The decoder's scale ends one step below +1.
            return np.clip(frames, -1.0, 1.0 - step)
        return np.clip(frames, -1.0, 1.0) if over.any() else frames

    def _discard(self) -> None:
        self._temporary.unlink(missing_ok=True)

    def _fault(self, fault: BaseException) -> UnwritableAudio:
        return UnwritableAudio(self.path.name, _reason(fault, self.path.parent))


def _reason(fault: BaseException, folder: Path) -> str:
    if not folder.is_dir():
        return "its folder does not exist"
    free = shutil.disk_usage(folder).free
    if getattr(fault, "errno", None) == errno.ENOSPC or free < _LITTLE_SPACE_BYTES:
        return f"the disk is full ({free / 1e6:.1f} MB free); make room and run it again"
    if not os.access(folder, os.W_OK):
        return "its folder cannot be written to"
    return "the disk did not take all of it; check free space and limits, then run it again"
