"""The same work with general-purpose libraries."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import soundfile
from bench.work import RATE


def effects_library(take: Path, out: Path, with_noise: bool) -> None:
    """The five-step chain with an effects library and a noise-reduction library."""
    import noisereduce
    import pedalboard as pb

    board = pb.Pedalboard([
        pb.HighpassFilter(80), pb.LowShelfFilter(150, 1), pb.PeakFilter(390, -3, 1.4),
        pb.PeakFilter(2500, 1.5), pb.PeakFilter(4500, 1), pb.HighShelfFilter(9000, 2),
        pb.Compressor(-18, 2.5, 8, 120), pb.Gain(3), pb.Limiter(-1),
    ])  # fmt: skip
    sound, rate = soundfile.read(take, dtype="float32")
    sound *= 10 ** (-3 / 20) / np.abs(sound).max()
    if with_noise:
        sound = noisereduce.reduce_noise(
            sound, rate, stationary=True, y_noise=sound[: 3 * rate], n_fft=1024, prop_decrease=0.87
        )
    sound = board(sound.astype(np.float32), rate)
    soundfile.write(out, sound, rate, "PCM_24")


#: The eight-step chain in the filters of the media library.
_FILTERS = (
    ("volume", "volume=3dB"),
    ("afftdn", "nr=18:nf=-55"),
    ("agate", "threshold=0.006:range=0.25:ratio=2:attack=2:release=150"),
    ("deesser", "i=0.3"),
    ("highpass", "f=80"),
    ("bass", "g=1:f=150"),
    ("equalizer", "f=390:t=q:w=1.4:g=-3"),
    ("equalizer", "f=2500:t=q:w=0.7:g=1.5"),
    ("equalizer", "f=4500:t=q:w=0.7:g=1"),
    ("treble", "g=2:f=9000"),
    ("acompressor", "threshold=0.126:ratio=2.5:attack=8:release=120:makeup=1.4"),
    ("alimiter", "limit=0.891:level=false"),
    ("loudnorm", "I=-19:TP=-1"),
)


def media_library(take: Path, out: Path) -> None:
    """The eight-step chain with the filters of a media library; loudness as it goes along."""
    import av
    import av.filter

    with av.open(str(take)) as source, av.open(str(out), "w", format="wav") as target:
        stream = source.streams.audio[0]
        made = target.add_stream("pcm_s24le", rate=RATE, layout="mono")
        graph = av.filter.Graph()
        last = graph.add_abuffer(template=stream)
        for name, options in _FILTERS:
            node = graph.add(name, options)
            last.link_to(node)
            last = node
        form = graph.add("aformat", f"sample_fmts=s32:sample_rates={RATE}:channel_layouts=mono")
        last.link_to(form)
        sink = graph.add("abuffersink")
        form.link_to(sink)
        graph.configure()

        def drain() -> None:
            while True:
                try:
                    frame = sink.pull()
                except (av.BlockingIOError, av.EOFError):
                    return
                frame.pts = None
                target.mux(made.encode(frame))

        for frame in source.decode(stream):
            graph.push(frame)
            drain()
        graph.push(None)
        drain()
        target.mux(made.encode(None))


def loudness_library(sound: np.ndarray) -> Callable[[], object]:
    """Integrated loudness by a loudness library."""
    import pyloudnorm

    meter = pyloudnorm.Meter(RATE)
    return lambda: meter.integrated_loudness(sound)
