"""The lossy encoder, alone in a process of its own: ``python -m zesty_core.audio.encoder ORDER``.

Takes interleaved float32 from standard input until it ends, writes one file. A crash of a codec
library, or its memory, then never touches the program that asked. ``ORDER`` is a JSON object with
``path, container, sample_rate_hz, channels, bitrate_kbps, variable``.
"""

from __future__ import annotations

import io
import json
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np

from zesty_core.audio.lame import encode_mp3, lame
from zesty_core.foundation.signal import Block

_FRAMES = 65_536
_CODECS = {"MP3": ("libmp3lame", "mp3"), "OPUS": ("libopus", "opus")}
#: Nominal stereo bitrates of MP3's quality steps V0 to V9 and of Vorbis's q0 to q10.
_MP3_STEPS_KBPS = (245, 225, 190, 175, 165, 130, 115, 100, 85, 65)
_VORBIS_STEPS_KBPS = (64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 500)
#: Scale between a codec's quality and the binding's integer ``global_quality``.
_QUALITY_SCALE = 118


def _nearest(steps: tuple[int, ...], kbps: float) -> int:
    return min(range(len(steps)), key=lambda i: abs(steps[i] - kbps))


def _stereo_kbps(order: dict[str, Any]) -> float:
    """The bitrate a stereo file of the same quality would have."""
    return float(order["bitrate_kbps"] * 2 / order["channels"])


def _blocks(channels: int) -> Iterator[Block]:
    source = sys.stdin.buffer
    while data := source.read(_FRAMES * channels * 4):
        yield np.frombuffer(data, np.float32).reshape(-1, channels)


def _vorbis(order: dict[str, Any]) -> None:
    import soundfile

    step = _nearest(_VORBIS_STEPS_KBPS, _stereo_kbps(order))
    with soundfile.SoundFile(
        order["path"],
        "w",
        order["sample_rate_hz"],
        order["channels"],
        "VORBIS",
        format="OGG",
        compression_level=1.0 - step / 10.0,
    ) as file:
        for frames in _blocks(order["channels"]):
            file.write(frames)


def _own_scale(order: dict[str, Any]) -> float:
    """Factor the binding's MP3 encoder puts on everything by itself; read off a tone."""
    import av

    rate, channels = order["sample_rate_hz"], order["channels"]
    tone = 0.25 * np.sin(2 * np.pi * rate / 48 * np.arange(rate // 2) / rate)
    made = io.BytesIO()
    _encode(order, made, iter([np.repeat(tone[:, None], channels, axis=1).astype(np.float32)]))
    made.seek(0)
    with av.open(made, "r") as file:
        frames = [frame.to_ndarray()[0] for frame in file.decode(audio=0)]
    middle = np.concatenate(frames)[rate // 8 : rate // 4].astype(np.float64)
    return float(np.sqrt(2.0 * np.mean(middle**2)) / 0.25)


def _mp3(order: dict[str, Any]) -> None:
    if lame() is None:
        _with_media_binding(order)
        return
    encode_mp3(
        Path(order["path"]),
        order["sample_rate_hz"],
        order["channels"],
        None if order["variable"] else order["bitrate_kbps"],
        _nearest(_MP3_STEPS_KBPS, _stereo_kbps(order)),
        _blocks(order["channels"]),
    )


def _scaled(blocks: Iterator[Block], factor: float) -> Iterator[Block]:
    return (block * np.float32(factor) for block in blocks)


def _with_media_binding(order: dict[str, Any]) -> None:
    codec, _ = _CODECS[order["container"]]
    channels = order["channels"]
    factor = 1.0 / _own_scale(order) if codec == "libmp3lame" else 1.0
    _encode(order, order["path"], _scaled(_blocks(channels), factor))


def _encode(order: dict[str, Any], out: Any, blocks: Iterator[Block]) -> None:
    import av

    codec, container = _CODECS[order["container"]]
    rate, channels = order["sample_rate_hz"], order["channels"]
    layout = "mono" if channels == 1 else "stereo"
    with av.open(out, "w", format=container) as file:
        stream: Any = file.add_stream(codec, rate=rate, layout=layout)
        context = stream.codec_context
        context.format = "fltp" if codec == "libmp3lame" else "flt"
        if codec == "libmp3lame" and order["variable"]:
            quality = _nearest(_MP3_STEPS_KBPS, _stereo_kbps(order))
            context.options = {
                "flags": "+qscale",
                "global_quality": str(quality * _QUALITY_SCALE),
            }
        else:
            stream.bit_rate = order["bitrate_kbps"] * 1000
            if codec == "libopus":
                context.options = {"vbr": "on" if order["variable"] else "off"}
        planar = codec == "libmp3lame"
        done = 0
        for frames in blocks:
            samples = np.ascontiguousarray(frames.T) if planar else frames.reshape(1, -1)
            frame = av.AudioFrame.from_ndarray(samples, format=context.format.name, layout=layout)
            frame.sample_rate, frame.pts = rate, done
            done += len(frames)
            for packet in stream.encode(frame):
                file.mux(packet)
        for packet in stream.encode(None):
            file.mux(packet)


def main() -> int:
    """Encode; faults go to standard error in one line."""
    order = json.loads(sys.argv[1])
    encode: Callable[[dict[str, Any]], None] = {
        "MP3": _mp3,
        "OGG": _vorbis,
        "OPUS": _with_media_binding,
    }[order["container"]]
    try:
        encode(order)
    except Exception as fault:
        print(f"{type(fault).__name__}: {fault}", file=sys.stderr)
        Path(order["path"]).unlink(missing_ok=True)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
