"""MP3 by the LAME library, fed with floating-point samples.

The library comes compiled inside the ``lameenc`` package, whose own interface takes 16-bit samples
only and writes no header that tells players the true length; so its C interface is used (lame.h,
LAME 3.100). It runs four times as fast as the one in the media binding, at the same quality.
"""

from __future__ import annotations

import ctypes
import functools
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

_MONO, _JOINT_STEREO = 3, 1
_VBR_OFF, _VBR_DEFAULT = 0, 4
_HEADER_BYTES = 16_384
#: What lame.h promises to be enough for one call.
_BYTES_PER_SAMPLE, _BYTES_BESIDE = 1.25, 7200


@functools.cache
def lame() -> ctypes.CDLL | None:
    """The library; None where this platform's package hides it."""
    try:
        import lameenc

        library = ctypes.CDLL(lameenc.__file__)
        library.lame_init.restype = ctypes.c_void_p
        library.lame_get_scale.restype = ctypes.c_float
        library.lame_get_lametag_frame.restype = ctypes.c_size_t
        for name in ("encode_buffer_ieee_float", "encode_flush", "close", "set_brate"):
            getattr(library, f"lame_{name}")
    except (ImportError, OSError, AttributeError):
        return None
    return library


class Mp3Encoder:
    """One MP3 file; a context.

    Parameters
    ----------
    bitrate_kbps : constant bitrate; or None and ``vbr_step``, 0 (best) to 9.
    """

    def __init__(
        self,
        path: Path,
        sample_rate_hz: int,
        channels: int,
        bitrate_kbps: int | None,
        vbr_step: int = 4,
    ) -> None:
        library = lame()
        assert library is not None
        self._library, self._channels = library, channels
        self._wanted = (sample_rate_hz, bitrate_kbps, vbr_step)
        # It turns everything down by up to 0.45 dB of its own accord; that is asked for and undone.
        handle = self._prepared(1.0)
        own_scale = library.lame_get_scale(handle)
        library.lame_close(handle)
        self._handle = self._prepared(1.0 / own_scale)
        self._file = path.open("w+b")

    def _prepared(self, scale: float) -> ctypes.c_void_p:
        library, (rate, bitrate_kbps, vbr_step) = self._library, self._wanted
        handle = ctypes.c_void_p(library.lame_init())
        settings: dict[str, Any] = {
            "in_samplerate": rate,
            "out_samplerate": rate,
            "num_channels": self._channels,
            "mode": _MONO if self._channels == 1 else _JOINT_STEREO,
            "write_id3tag_automatic": 0,
            "scale": ctypes.c_float(scale),
            "VBR": _VBR_DEFAULT if bitrate_kbps is None else _VBR_OFF,
        }
        if bitrate_kbps is None:
            settings["VBR_q"] = vbr_step
        else:
            settings["brate"] = bitrate_kbps
        refused = [
            f"{name} {value}"
            for name, value in settings.items()
            if getattr(library, f"lame_set_{name}")(handle, value) < 0
        ]
        if refused or library.lame_init_params(handle) < 0:
            library.lame_close(handle)
            raise ValueError(f"LAME refuses {', '.join(refused) or settings}")
        return handle

    def __enter__(self) -> Mp3Encoder:
        return self

    def write(self, frames: NDArray[np.float32]) -> None:
        """Encode samples of shape (samples, channels)."""
        count = len(frames)
        sides = [np.ascontiguousarray(frames[:, c], np.float32) for c in range(self._channels)]
        pointers = [side.ctypes.data_as(ctypes.POINTER(ctypes.c_float)) for side in sides]
        room = int(_BYTES_PER_SAMPLE * count) + _BYTES_BESIDE
        made = ctypes.create_string_buffer(room)
        size = self._library.lame_encode_buffer_ieee_float(
            self._handle, pointers[0], pointers[-1], count, made, room
        )
        self._keep(made, size)

    def __exit__(self, *error: object) -> None:
        try:
            made = ctypes.create_string_buffer(_BYTES_BESIDE)
            self._keep(made, self._library.lame_encode_flush(self._handle, made, _BYTES_BESIDE))
            # The first frame was kept free for the header: length, delay and padding.
            header = ctypes.create_string_buffer(_HEADER_BYTES)
            size = self._library.lame_get_lametag_frame(
                self._handle, header, ctypes.c_size_t(_HEADER_BYTES)
            )
            if 0 < size <= _HEADER_BYTES:
                self._file.seek(0)
                self._file.write(header.raw[:size])
        finally:
            self._file.close()
            self._library.lame_close(self._handle)

    def _keep(self, made: Any, size: int) -> None:
        if size < 0:
            raise ValueError(f"LAME failed ({size})")
        self._file.write(made.raw[:size])


def encode_mp3(
    path: Path,
    sample_rate_hz: int,
    channels: int,
    bitrate_kbps: int | None,
    vbr_step: int,
    blocks: Iterator[NDArray[np.float32]],
) -> None:
    """Encode blocks of shape (samples, channels) into a file."""
    with Mp3Encoder(path, sample_rate_hz, channels, bitrate_kbps, vbr_step) as encoder:
        for frames in blocks:
            encoder.write(frames)
