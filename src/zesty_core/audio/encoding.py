"""What a finished file is: container, depth or bitrate, rate; and the writer that makes it."""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from types import TracebackType
from typing import Protocol, Self

import numpy as np

from zesty_core.audio.markers import Chapter
from zesty_core.audio.part_file import part_path, put_in_place, why_not_written
from zesty_core.audio.tags import Cover, Tags, write_tags
from zesty_core.audio.writer import AudioWriter
from zesty_core.foundation.errors import BadInput, BadSetting, UnwritableAudio
from zesty_core.foundation.signal import Block

#: Container by the ending of the file's name.
CONTAINERS = {".wav": "WAV", ".flac": "FLAC", ".mp3": "MP3", ".ogg": "OGG", ".opus": "OPUS"}
#: Sample formats by the depth that is asked for.
DEPTHS = {"16": "PCM_16", "24": "PCM_24", "32f": "FLOAT"}
LOSSY = ("MP3", "OGG", "OPUS")
#: Bitrates in kbit/s a container can have, and the usual one for mono.
_BITRATES_KBPS = {"MP3": (32, 320, 96), "OGG": (32, 500, 96), "OPUS": (8, 510, 64)}
#: Rates a codec knows; others are converted to the next one up, or the highest.
_RATES_HZ = {
    "MP3": (8_000, 11_025, 12_000, 16_000, 22_050, 24_000, 32_000, 44_100, 48_000),
    "OPUS": (8_000, 12_000, 16_000, 24_000, 48_000),
}


@dataclass(frozen=True)
class Encoding:
    """How samples are kept. ``depth`` is for WAV and FLAC, the bitrate for the others."""

    container: str
    depth: str | None = None
    bitrate_kbps: int | None = None
    variable: bool = False

    def __post_init__(self) -> None:
        if self.container not in CONTAINERS.values():
            allowed = ", ".join(CONTAINERS.values())
            raise BadSetting("container", self.container, f"must be one of {allowed}")
        if self.container in LOSSY:
            self._check_lossy()
        else:
            self._check_exact()

    def _check_lossy(self) -> None:
        if self.depth is not None:
            raise BadSetting("depth", self.depth, f"is for WAV and FLAC, not for {self.container}")
        low, high, _ = _BITRATES_KBPS[self.container]
        if self.bitrate_kbps is not None and not low <= self.bitrate_kbps <= high:
            raise BadSetting("bitrate_kbps", self.bitrate_kbps, f"must be from {low} to {high}")

    def _check_exact(self) -> None:
        if self.bitrate_kbps is not None or self.variable:
            raise BadSetting(
                "bitrate_kbps", self.bitrate_kbps, f"is for MP3, OGG and Opus, not {self.container}"
            )
        allowed = ("16", "24") if self.container == "FLAC" else tuple(DEPTHS)
        if self.depth is not None and self.depth not in allowed:
            raise BadSetting("depth", self.depth, f"must be one of {', '.join(allowed)}")

    @classmethod
    def for_path(
        cls,
        path: Path,
        depth: str | None = None,
        bitrate_kbps: int | None = None,
        variable: bool = False,
    ) -> Encoding:
        """Encoding by the ending of a file's name."""
        container = CONTAINERS.get(path.suffix.lower())
        if container is None:
            allowed = ", ".join(CONTAINERS)
            raise BadInput(f"{path.name}: the ending must be one of {allowed}", path="out")
        return cls(container, depth, bitrate_kbps, variable)

    def rate_hz(self, wanted_hz: int) -> int:
        """The rate nearest above ``wanted_hz`` that the codec knows, or its highest."""
        known = _RATES_HZ.get(self.container)
        if known is None or wanted_hz in known:
            return wanted_hz
        return next((rate for rate in known if rate >= wanted_hz), known[-1])


class Writer(Protocol):
    """Takes blocks inside a context; the file is there, whole, when it is left without an error."""

    clipped_samples: int

    def __enter__(self) -> Self: ...

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None: ...

    def write(self, block: Block) -> None:
        """Append a block of shape (channels, samples)."""


def make_writer(
    path: Path,
    encoding: Encoding,
    sample_rate_hz: int,
    channels: int,
    *,
    subtype: str | None = None,
    dither: bool = True,
    length_samples: int = 0,
    tags: Tags | None = None,
    cover: Cover | None = None,
    chapters: Sequence[Chapter] = (),
) -> Writer:
    """Writer of ``path``. ``subtype`` is the sample format where no depth is asked for."""
    if encoding.container in LOSSY:
        return EncodedWriter(path, encoding, sample_rate_hz, channels, tags, cover, chapters)
    kind = DEPTHS[encoding.depth] if encoding.depth else subtype or "PCM_24"
    return AudioWriter(
        path,
        sample_rate_hz,
        channels,
        kind,
        dither=dither,
        length_samples=length_samples,
        tags=tags,
        cover=cover,
        chapters=chapters,
    )


class EncodedWriter:
    """Writes MP3, OGG or Opus through the encoder's own process."""

    def __init__(
        self,
        path: Path,
        encoding: Encoding,
        sample_rate_hz: int,
        channels: int,
        tags: Tags | None = None,
        cover: Cover | None = None,
        chapters: Sequence[Chapter] = (),
    ) -> None:
        self.path = path
        self.clipped_samples = 0
        self._tags, self._cover, self._chapters = tags, cover, chapters
        self._temporary = part_path(path)
        low, high, mono_kbps = _BITRATES_KBPS[encoding.container]
        bitrate = encoding.bitrate_kbps or mono_kbps * channels
        self._order = {
            "path": str(self._temporary),
            "container": encoding.container,
            "sample_rate_hz": sample_rate_hz,
            "channels": channels,
            "bitrate_kbps": min(max(bitrate, low), high),
            "variable": encoding.variable,
        }
        self._process: subprocess.Popen[bytes] | None = None

    def __enter__(self) -> Self:
        if not self.path.parent.is_dir():
            raise UnwritableAudio(self.path.name, "its folder does not exist")
        self._process = subprocess.Popen(
            [sys.executable, "-m", "zesty_core.audio.encoder", json.dumps(self._order)],
            stdin=subprocess.PIPE,
            stderr=subprocess.PIPE,
        )
        return self

    def write(self, block: Block) -> None:
        """Hand a block of shape (channels, samples) to the encoder."""
        assert self._process is not None
        assert self._process.stdin is not None
        self.clipped_samples += int(np.count_nonzero(np.abs(block) > 1.0))
        try:
            self._process.stdin.write(np.ascontiguousarray(block.T, dtype=np.float32).data)
        except (BrokenPipeError, OSError):
            raise self._fault() from None

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        assert self._process is not None
        try:
            if kind is not None:
                self._process.kill()
                self._process.communicate()
                return
            _, said = self._process.communicate()
            if self._process.returncode != 0:
                raise self._fault(said)
            if self._tags or self._cover or self._chapters:
                container = str(self._order["container"])
                tags = self._tags or {}
                write_tags(self._temporary, container, tags, self._cover, self._chapters)
            put_in_place(self._temporary, self.path)
        finally:
            self._temporary.unlink(missing_ok=True)

    def _fault(self, said: bytes | None = None) -> UnwritableAudio:
        assert self._process is not None
        if said is None:
            said = self._process.communicate()[1]
        words = said.decode(errors="replace").strip().splitlines()
        reason = why_not_written(None, self.path.parent)
        return UnwritableAudio(self.path.name, f"{reason} (encoder: {(words or ['ended'])[-1]})")
