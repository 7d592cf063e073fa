"""Writing WAV and FLAC: under a temporary name first, then renamed, so nothing is half-written.

Reduction to 16 bit adds triangular dither of two quantisation steps' width
(Lipshitz, Wannamaker & Vanderkooy 1992), from a fixed seed so that bytes repeat.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from types import TracebackType
from typing import Any, Self

import numpy as np
import soundfile
from numpy.typing import NDArray

from zesty_core.audio import raw_frames
from zesty_core.audio.markers import Chapter
from zesty_core.audio.part_file import part_path, put_in_place, why_not_written
from zesty_core.audio.reader import FileFormat
from zesty_core.audio.riff import clear_peak_time
from zesty_core.audio.tags import Cover, Tags, write_tags
from zesty_core.foundation.errors import BadInput, UnwritableAudio
from zesty_core.foundation.signal import Block
from zesty_core.runtime.kernel import kernel

WRITABLE = {".wav": "WAV", ".flac": "FLAC"}
_BITS = {"PCM_16": 16, "PCM_24": 24, "PCM_32": 32}
_DITHER_SEED = 20_240_229
_RIFF_LIMIT_BYTES = 4_000_000_000


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


@kernel
def _to_integers(samples: NDArray[Any], bits: int, out: NDArray[np.int32]) -> int:
    """Round to so many bits, in the upper bits of 32; the answer counts what lay beyond full scale.

    Bounds are written out: the functions for them keep the loop from being vectorised.
    """
    top = 2.0 ** (bits - 1)
    most = top - 1.0
    raised = np.int32(2 ** (32 - bits))
    beyond = 0
    for n in range(samples.shape[0]):
        value = np.float64(samples[n])
        beyond += 1 if abs(value) > 1.0 else 0
        step = np.rint(value * top)
        below = step if step < most else most
        out[n] = np.int32(below if below > -top else -top) * raised
    return beyond


def _frames(values: NDArray[Any]) -> NDArray[Any]:
    """One row for each sample in time; column by column, which is faster than a transposed copy."""
    frames = np.empty(values.T.shape, values.dtype)
    for channel, row in enumerate(values):
        frames[:, channel] = row
    return frames


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
        tags: Tags | None = None,
        cover: Cover | None = None,
        chapters: Sequence[Chapter] = (),
    ) -> None:
        self.path = path
        self._tags, self._cover, self._chapters = tags, cover, chapters
        self.clipped_samples = 0
        self._temporary = part_path(path)
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
                clear_peak_time(self._temporary)
                if self._tags or self._cover or self._chapters:
                    tags = self._tags or {}
                    write_tags(self._temporary, self._container, tags, self._cover, self._chapters)
                put_in_place(self._temporary, self.path)
        except (soundfile.SoundFileError, OSError) as fault:
            if kind is None:
                raise self._fault(fault) from None
        finally:
            self._discard()

    def write(self, block: Block) -> None:
        """Append a block of shape (channels, samples)."""
        assert self._file is not None
        raw = self._subtype == raw_frames.SUBTYPE and self._container != "FLAC"
        values: NDArray[Any] = block
        if not raw and self._subtype not in ("FLOAT", "DOUBLE"):
            values = self._integers(block)
        try:
            if raw:
                self.clipped_samples += raw_frames.write_frames(self._file, block)
            else:
                self._file.write(_frames(values))
        # The binding asserts that all frames went out; a full disk shows as AssertionError.
        except (soundfile.SoundFileError, OSError, AssertionError) as fault:
            raise self._fault(fault) from None

    def _integers(self, block: Block) -> NDArray[Any]:
        """Nearest integers (the library would round down), held within the format's range."""
        bits = _BITS.get(self._subtype)
        if bits is None:
            self.clipped_samples += int(np.count_nonzero(np.abs(block) > 1.0))
            return np.asarray(np.clip(block, -1.0, 1.0))
        values: NDArray[Any] = block
        if self._dithers:
            # Two numbers for each sample in turn, so that blocks of any size get the same.
            pairs = self._noise.random((*block.T.shape, 2))
            values = block + (pairs[..., 0] - pairs[..., 1]).T * 2.0 ** (1 - bits)
        out = np.empty(block.shape, np.int32)
        self.clipped_samples += _to_integers(np.ravel(values), bits, out.reshape(-1))
        return out

    def _discard(self) -> None:
        self._temporary.unlink(missing_ok=True)

    def _fault(self, fault: BaseException) -> UnwritableAudio:
        return UnwritableAudio(self.path.name, why_not_written(fault, self.path.parent))
