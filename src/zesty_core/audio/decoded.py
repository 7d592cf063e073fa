"""Files that only the media binding can read (M4A, MP4, AAC, WebM): decoded from start to end, once.

A lossy stream cannot be entered at an exact sample, so it is decoded to a spool, or to a file that is
kept, and read from there. The demuxer is chosen by the file's first bytes: a list of other files is
never followed.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from zesty_core.foundation.signal import Block, SignalInfo, joined
from zesty_core.foundation.units import format_time

#: A header may promise a little more than the decoder gives: padding of the encoder.
_PADDING_S = 0.3
#: A stream's frames are some 20 ms long; so many samples are handed on together.
_TOGETHER_SAMPLES = 65_536
#: Decoded, a voice takes up to some 250 times what its file does (Opus at 6 kbit/s). A file may hold
#: so much more silence than sound, but not all that a few bytes can be made to promise.
MOST_GROWTH = 1_000
_ALWAYS_ALLOWED_BYTES = 256_000_000
_SAMPLE_BYTES = 4


#: Containers of these files, as a file's format names them.
COMPRESSED = frozenset({"MP4", "MATROSKA", "AAC"})


def demuxer_for(path: Path) -> str | None:
    """Demuxer of a file this module can read; None for all others."""
    with path.open("rb") as file:
        head = file.read(12)
    if head[4:8] == b"ftyp":
        return "mp4"
    if head[:4] == b"\x1a\x45\xdf\xa3":
        return "matroska"
    if len(head) > 2 and head[0] == 0xFF and head[1] & 0xF6 == 0xF0:
        return "aac"
    return None


class NotDecodable(Exception):  # noqa: N818 - inside this package only; the reader names the file
    """Why a file cannot be decoded, in words that follow its name."""


@dataclass(frozen=True)
class Head:
    """What the header says."""

    codec: str
    info: SignalInfo


class Decoder:
    """An open file: its head first, then all of it in blocks."""

    def __init__(self, path: Path, demuxer: str) -> None:
        import av

        self._most_bytes = MOST_GROWTH * path.stat().st_size + _ALWAYS_ALLOWED_BYTES
        try:
            self._container: Any = av.open(str(path), format=demuxer, metadata_errors="replace")
        except (av.FFmpegError, OSError, ValueError) as fault:
            raise NotDecodable(f"cannot be opened ({_plain(fault)})") from None
        if not self._container.streams.audio:
            self.close()
            raise NotDecodable("holds no sound")
        self._stream = self._container.streams.audio[0]
        context = self._stream.codec_context
        duration = self._stream.duration
        time_base = self._stream.time_base
        seconds = float(duration * time_base) if duration and time_base else 0.0
        if not seconds and self._container.duration:
            seconds = self._container.duration / 1e6
        rate = int(context.sample_rate or 0)
        info = SignalInfo(rate, int(context.channels or 0), round(seconds * rate))
        self.head = Head(str(context.name).upper(), info)

    def close(self) -> None:
        """Close the file."""
        self._container.close()

    def check_growth(self, samples: int) -> None:
        """Raise when so many samples are out of all proportion to the file."""
        size_bytes = samples * self.head.info.channels * _SAMPLE_BYTES
        if size_bytes > self._most_bytes:
            raise NotDecodable(
                f"decodes to more than {self._most_bytes / 1e6:.0f} MB, over {MOST_GROWTH} times "
                "its size; a voice recording does not"
            )

    def decode(
        self,
        write: Callable[[Block], None],
        most_samples: int,
        watch: Callable[[int], None] = lambda done_samples: None,
    ) -> SignalInfo:
        """Hand all of it to ``write``, in order; returns its true length.

        Parameters
        ----------
        most_samples : a longer file is refused.
        watch : called with the samples done so far; may raise to stop.

        Raises
        ------
        NotDecodable
            The file is damaged, ends early, lasts too long or grows out of all proportion.
        """
        promised = self.head.info
        done = 0
        for block in self._blocks():
            done += block.shape[1]
            if done > most_samples:
                raise NotDecodable("lasts longer than can be worked on")
            self.check_growth(done)
            write(block)
            watch(done)
        if done + _PADDING_S * promised.sample_rate_hz < promised.length_samples:
            at, end = (n / promised.sample_rate_hz for n in (done, promised.length_samples))
            raise NotDecodable(
                f"ends early: {format_time(at)} of the {format_time(end)} in its header "
                "are there; export it again"
            )
        return SignalInfo(promised.sample_rate_hz, promised.channels, done)

    def _blocks(self) -> Iterator[Block]:
        """Frames, put together to blocks: each costs more in handing over than in decoding."""
        frames: list[Block] = []
        samples = 0
        for frame in self._frames():
            frames.append(frame)
            samples += frame.shape[1]
            if samples >= _TOGETHER_SAMPLES:
                yield joined(frames, self.head.info.channels)
                frames, samples = [], 0
        if frames:
            yield joined(frames, self.head.info.channels)

    def _frames(self) -> Iterator[Block]:
        import av

        rate, channels = self.head.info.sample_rate_hz, self.head.info.channels
        layout = "mono" if channels == 1 else "stereo"
        to_float = av.AudioResampler(format="fltp", layout=layout, rate=rate)
        try:
            for frame in self._container.decode(self._stream):
                for made in to_float.resample(frame):
                    yield made.to_ndarray().astype(np.float32, copy=False)
            for made in to_float.resample(None):
                yield made.to_ndarray().astype(np.float32, copy=False)
        except (av.FFmpegError, ValueError) as fault:
            raise NotDecodable(f"is damaged ({_plain(fault)})") from None


def _plain(fault: Exception) -> str:
    return str(getattr(fault, "strerror", None) or fault)
