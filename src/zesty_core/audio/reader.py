"""Reading sound files in blocks: WAV (RF64 included), AIFF, FLAC, MP3, Ogg (Vorbis, Opus), M4A.

Every fault of a file becomes one :class:`UnreadableAudio` with the reason in plain words.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

import numpy as np
import soundfile

from zesty_core.audio import raw_frames
from zesty_core.audio.decoded import Decoder, NotDecodable, demuxer_for
from zesty_core.audio.riff import read_wave_header
from zesty_core.foundation.errors import MissingFile, UnreadableAudio
from zesty_core.foundation.signal import BLOCK_SAMPLES, Block, SignalInfo
from zesty_core.foundation.spool import Spool
from zesty_core.foundation.units import format_time

MIN_RATE_HZ, MAX_RATE_HZ = 8_000, 192_000
MAX_CHANNELS = 2
MAX_DURATION_S = 12 * 3600
READABLE = "WAV, AIFF, FLAC, MP3, Ogg, Opus or M4A"

#: Samples above this (+40 dBFS) come from a broken float file, not from a voice.
_ABSURD_SAMPLE = 100.0


@dataclass(frozen=True)
class FileFormat:
    """Container and sample format of a file, as the decoder names them."""

    container: str
    subtype: str

    @property
    def bits(self) -> int | None:
        """Bits per sample of a PCM or float file; None for lossy ones."""
        known = {"PCM_S8": 8, "PCM_U8": 8, "PCM_16": 16, "PCM_24": 24, "PCM_32": 32}
        return known.get(self.subtype) or {"FLOAT": 32, "DOUBLE": 64}.get(self.subtype)

    @property
    def is_float(self) -> bool:
        """Whether samples can lie above full scale."""
        return self.subtype in ("FLOAT", "DOUBLE")


class AudioFile:
    """A sound file as a :class:`zesty_core.foundation.signal.Source`; checked when opened.

    ``most_channels`` is higher for files of our own that hold several sounds side by side.
    ``original`` is the format of what a file of our own was decoded from.

    Raises
    ------
    UnreadableAudio
        On construction for anything that shows in the header, while reading for damage further in.
    """

    def __init__(
        self,
        path: Path | str,
        name: str | None = None,
        most_channels: int = MAX_CHANNELS,
        original: FileFormat | None = None,
    ) -> None:
        self.path = Path(path)
        self._most_channels = most_channels
        self.name = name or self.path.name
        self._check_file()
        self._spool: Spool | None = None
        demuxer = demuxer_for(self.path)
        if demuxer:
            self._decode(demuxer)
            return
        info = self._open_info()
        self._stored = FileFormat(info.format, info.subtype)
        self.format = original or self._stored
        self._info = SignalInfo(info.samplerate, info.channels, info.frames)
        self._check_signal()

    @property
    def info(self) -> SignalInfo:
        """Rate, channels and length."""
        return self._info

    def blocks(self, block_samples: int = BLOCK_SAMPLES) -> Iterator[Block]:
        """Float32 blocks from the first to the last sample."""
        return self._blocks(block_samples, "float32")

    def exact_blocks(self, block_samples: int = BLOCK_SAMPLES) -> Iterator[Block]:
        """Float64 blocks, which hold 32-bit integers without loss."""
        return self._blocks(block_samples, "float64")

    def read(self, start: int, stop: int) -> Block:
        """Samples ``start`` to ``stop``, clipped to what is there."""
        start, stop = max(0, start), min(stop, self._info.length_samples)
        if stop <= start:
            return np.zeros((self._info.channels, 0), np.float32)
        if self._spool:
            return self._spool.read(start, stop)
        with self._opened() as file:
            try:
                file.seek(start)
                return self._next(file, stop - start, "float32")
            except soundfile.SoundFileError as fault:
                raise self._fault(f"damaged at {self._at(start)} ({fault})") from None

    @cached_property
    def _is_packed(self) -> bool:
        """Whether samples lie as three bytes each, one behind the other, the lowest first."""
        width = raw_frames.WIDTH * self._info.channels * self._info.sample_rate_hz
        return self._stored.subtype == raw_frames.SUBTYPE and self._bytes_per_second == width

    @cached_property
    def is_wave(self) -> bool:
        """Whether the container is WAV or one of its long forms."""
        return self.format.container in ("WAV", "WAVEX", "RF64")

    def _blocks(self, block_samples: int, dtype: str) -> Iterator[Block]:
        if self._spool:
            yield from self._spool.blocks(block_samples)
            return
        done, expected = 0, self._info.length_samples
        with self._opened() as file:
            while done < expected:
                try:
                    block = self._next(file, min(block_samples, expected - done), dtype)
                except soundfile.SoundFileError as fault:
                    raise self._fault(f"damaged at {self._at(done)} ({fault})") from None
                if not block.shape[1]:
                    raise self._fault(
                        f"ends early: {self._at(done)} of the {self._at(expected)} "
                        "in its header are there; export it again"
                    )
                self._check_samples(block, done)
                done += block.shape[1]
                yield block

    def _next(self, file: soundfile.SoundFile, samples: int, dtype: str) -> Block:
        """The next samples from where ``file`` stands, as many as are there."""
        if dtype == "float32" and self._is_packed:
            return raw_frames.read_frames(file, samples)
        return np.ascontiguousarray(file.read(samples, dtype=dtype, always_2d=True).T)

    def _check_samples(self, block: Block, done: int) -> None:
        if not self._stored.is_float:
            return
        # One reduction finds NaN and infinity alike: both make the sum of |x| not finite.
        worst = np.abs(block).max(initial=0.0)
        if np.isfinite(worst) and worst <= _ABSURD_SAMPLE:
            return
        bad = int(np.argmax(~(np.abs(block).max(axis=0) <= _ABSURD_SAMPLE)))
        what = (
            "a sample that is not a number"
            if not np.isfinite(worst)
            else (f"a sample {worst:.0f} times full scale")
        )
        raise self._fault(f"holds {what} at {self._at(done + bad)}; export it again")

    def _check_file(self) -> None:
        if not self.path.exists():
            raise MissingFile(self.name, "there is no such file")
        if not self.path.is_file():
            raise self._fault("is not a file")
        if self.path.stat().st_size == 0:
            raise self._fault("is empty (0 bytes)")
        header = read_wave_header(self.path)
        self._bytes_per_second = header.bytes_per_second if header else 0
        if header and header.is_truncated:
            raise self._fault(f"ends early: {header.part_there}; copy or export it again")

    def _decode(self, demuxer: str) -> None:
        """Read a file that libsndfile cannot: all of it at once, to disk."""
        with opened_decoder(self.path, self.name, demuxer) as decoder:
            self._stored = self.format = FileFormat(demuxer.upper(), decoder.head.codec)
            self._info = decoder.head.info
            # An empty header length only shows once decoded.
            self._check_signal(length_known=False)
            spool = Spool(self._info, None)
            try:
                spool.info = self._info = decoder.decode(spool.write, self._most_samples())
                spool.rewind()
                self._check_signal()
            except BaseException:
                spool.close()
                raise
            self._spool = spool

    def _most_samples(self) -> int:
        return MAX_DURATION_S * self._info.sample_rate_hz

    def _open_info(self) -> soundfile._SoundFileInfo:
        try:
            return soundfile.info(str(self.path))
        except soundfile.SoundFileError:
            raise self._fault(f"is no sound file we can read; {READABLE} are") from None

    def _opened(self) -> soundfile.SoundFile:
        try:
            return soundfile.SoundFile(str(self.path))
        except soundfile.SoundFileError as fault:
            raise self._fault(f"cannot be opened ({fault})") from None

    def _check_signal(self, *, length_known: bool = True) -> None:
        check_signal(self.name, self._info, self._most_channels, length_known=length_known)

    def _fault(self, reason: str) -> UnreadableAudio:
        return UnreadableAudio(self.name, reason)

    def _at(self, sample: int) -> str:
        return format_time(sample / self._info.sample_rate_hz)


def check_signal(
    name: str, info: SignalInfo, most_channels: int = MAX_CHANNELS, *, length_known: bool = True
) -> None:
    """Raise :class:`UnreadableAudio` for channels, rates and lengths that are not worked on."""
    if info.channels > most_channels:
        raise UnreadableAudio(name, f"has {info.channels} channels; mono and stereo are worked on")
    if not MIN_RATE_HZ <= info.sample_rate_hz <= MAX_RATE_HZ:
        raise UnreadableAudio(
            name,
            f"has a rate of {info.sample_rate_hz} Hz; "
            f"{MIN_RATE_HZ} to {MAX_RATE_HZ} Hz are worked on",
        )
    if length_known and info.length_samples <= 0:
        raise UnreadableAudio(name, "holds no sound (0 samples)")
    if info.duration_s > MAX_DURATION_S:
        raise UnreadableAudio(
            name,
            f"lasts {format_time(info.duration_s)}; up to {MAX_DURATION_S // 3600} hours "
            "are worked on",
        )


@contextmanager
def opened_decoder(path: Path, name: str, demuxer: str) -> Iterator[Decoder]:
    """A decoder whose faults become :class:`UnreadableAudio` under the file's name."""
    try:
        decoder = Decoder(path, demuxer)
        try:
            yield decoder
        finally:
            decoder.close()
    except NotDecodable as fault:
        raise UnreadableAudio(name, str(fault)) from None
