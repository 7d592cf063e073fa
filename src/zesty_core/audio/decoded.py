"""Files that only the media binding can read (M4A, MP4, AAC, WebM): decoded to a spool once.

A lossy stream cannot be entered at an exact sample, so it is decoded from its start to a temporary
file and read from there. The demuxer is chosen by the file's first bytes: a list of other files is
never followed.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from zesty_core.signal import Block, SignalInfo
from zesty_core.spool import Spool
from zesty_core.units import format_time

#: A header may promise a little more than the decoder gives: padding of the encoder.
_PADDING_S = 0.3


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
    """An open file: its head first, then all of it into a spool."""

    def __init__(self, path: Path, demuxer: str) -> None:
        import av

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

    def spooled(self, most_samples: int) -> Spool:
        """Everything in it, ready to be read."""
        promised = self.head.info
        made = Spool(promised, None)
        done = 0
        try:
            for block in self._blocks():
                done += block.shape[1]
                if done > most_samples:
                    raise NotDecodable("lasts longer than can be worked on")
                made.write(block)
            if done + _PADDING_S * promised.sample_rate_hz < promised.length_samples:
                at, end = (n / promised.sample_rate_hz for n in (done, promised.length_samples))
                raise NotDecodable(
                    f"ends early: {format_time(at)} of the {format_time(end)} in its header "
                    "are there; export it again"
                )
            made.rewind()
        except BaseException:
            made.close()
            raise
        made.info = SignalInfo(promised.sample_rate_hz, promised.channels, done)
        return made

    def _blocks(self) -> Iterator[Block]:
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
