"""Compile every kernel once, so that nobody waits for the compiler later.

Runs all step types on two seconds of made-up sound, mono and stereo; the compiled code is kept
beside the sources.
"""

from __future__ import annotations

from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from zesty_core.audio.reader import AudioFile
from zesty_core.audio.writer import AudioWriter
from zesty_core.chain import run_chain
from zesty_core.measure.overview import OverviewMaker
from zesty_core.recipe import ChainStep
from zesty_core.signal import ArraySource
from zesty_core.steps.ambience import Ambience
from zesty_core.steps.compressor import Compressor
from zesty_core.steps.de_esser import DeEsser
from zesty_core.steps.eq import Band, Eq
from zesty_core.steps.gain import Gain
from zesty_core.steps.gate import Gate
from zesty_core.steps.limiter import Limiter
from zesty_core.steps.loudness import Loudness
from zesty_core.steps.multiband import Multiband
from zesty_core.steps.noise_reduction import NoiseReduction
from zesty_core.steps.normalize import Normalize
from zesty_core.steps.saturation import Saturation

_RATE_HZ = 48_000


def warm_up() -> None:
    """Run everything once."""
    noise = np.random.default_rng(1).standard_normal((2, 2 * _RATE_HZ)).astype(np.float32)
    noise[:, :_RATE_HZ] *= 0.001
    noise[:, _RATE_HZ:] *= 0.1
    chain = tuple(
        ChainStep(step)
        for step in (
            Normalize(),
            NoiseReduction(smoothing_oct=0.3, track_noise=True),
            Gate(),
            DeEsser(threshold_db=-60.0, follow_voice=False),
            Eq(bands=(Band(type="high_pass", freq_hz=80.0),)),
            Compressor(sidechain_high_pass_hz=80.0),
            Multiband(),
            Saturation(),
            Ambience(),
            Limiter(ceiling_dbtp=-6.0),
            Loudness(),
            Gain(gain_db=-1.0),
        )
    )
    for channels in (1, 2):
        overview = OverviewMaker(channels)
        run_chain(ArraySource(noise[:channels], _RATE_HZ), chain, overview.push)
        overview.finish()
    with TemporaryDirectory() as folder:
        path = Path(folder) / "a.wav"
        with AudioWriter(path, _RATE_HZ, 2) as writer:
            writer.write(noise)
        AudioFile(path).read(0, _RATE_HZ)
