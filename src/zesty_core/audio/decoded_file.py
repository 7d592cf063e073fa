"""Files that cannot be entered at a sample (M4A and its kin), decoded once to a file that can.

The decoded file is 32-bit float WAV, RF64 where it is long: the very samples that the decoder gives,
peaks beyond full scale included.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from zesty_core.audio.decoded import demuxer_for
from zesty_core.audio.reader import (
    MAX_DURATION_S,
    AudioFile,
    FileFormat,
    check_signal,
    opened_decoder,
)
from zesty_core.audio.writer import AudioWriter
from zesty_core.foundation.errors import UnwritableAudio
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.foundation.spool import FreeSpace

SUFFIX = ".wav"
#: A header may be off by some padding; the container is chosen by the length beforehand.
_SPARE = 1.02


@dataclass(frozen=True)
class FileHead:
    """What shows in a file's header. The length is a promise where ``is_compressed``."""

    format: FileFormat
    info: SignalInfo
    #: Whether the file has to be decoded before it can be read at any place.
    is_compressed: bool


def read_head(path: Path, name: str) -> FileHead:
    """Look at a file without decoding it.

    Raises :class:`UnreadableAudio` for what we do not work on.
    """
    demuxer = _demuxer(path)
    if demuxer is None:
        file = AudioFile(path, name)
        return FileHead(file.format, file.info, is_compressed=False)
    with opened_decoder(path, name, demuxer) as decoder:
        info = decoder.head.info
        check_signal(name, info, length_known=False)
        decoder.check_growth(info.length_samples)
        return FileHead(FileFormat(demuxer.upper(), decoder.head.codec), info, is_compressed=True)


def decode_file(
    path: Path, name: str, out: Path, watch: Callable[[float], None] = lambda share: None
) -> SignalInfo:
    """Decode ``path`` to ``out``, which is there, whole, when this returns, and not otherwise.

    Parameters
    ----------
    watch : called with the share done, 0 to 1; may raise to stop.

    Raises
    ------
    UnreadableAudio
        The file is damaged or out of all proportion.
    UnwritableAudio
        The disk is full, but for a reserve.
    """
    demuxer = _demuxer(path)
    assert demuxer is not None, "only compressed files are decoded"
    with opened_decoder(path, name, demuxer) as decoder:
        promised = decoder.head.info
        length = max(1, promised.length_samples)
        space = FreeSpace(out.parent)
        with AudioWriter(
            out,
            promised.sample_rate_hz,
            promised.channels,
            "FLOAT",
            length_samples=round(_SPARE * length),
        ) as writer:

            def write(block: Block) -> None:
                if not space.allows(block.nbytes):
                    raise UnwritableAudio(f"{name}, decoded,", space.reason())
                writer.write(block)

            info = decoder.decode(
                write,
                MAX_DURATION_S * promised.sample_rate_hz,
                lambda done: watch(min(1.0, done / length)),
            )
            check_signal(name, info)
    return info


def _demuxer(path: Path) -> str | None:
    return demuxer_for(path) if path.is_file() and path.stat().st_size else None
