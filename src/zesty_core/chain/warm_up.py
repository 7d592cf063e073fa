"""Compile every kernel once, so that nobody waits for the compiler later.

Runs all step types on two seconds of made-up sound, mono and stereo; the compiled code is kept
beside the sources.
"""

from __future__ import annotations

import itertools
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from zesty_core.audio.reader import AudioFile
from zesty_core.audio.writer import AudioWriter
from zesty_core.chain.recipe import ChainStep
from zesty_core.chain.runner import run_chain
from zesty_core.measures.overview import OverviewMaker
from zesty_core.steps.base import Step
from zesty_core.steps.registry import STEP_TYPES

_RATE_HZ = 48_000


_STEPS: tuple[Step, ...] = tuple(
    case for step_type in STEP_TYPES.values() for case in step_type.warm_up_cases()
)
#: Kinds of files; a kernel is compiled anew for each way in which its samples lie in memory.
_KINDS = (("a.wav", "PCM_16"), ("b.wav", "PCM_24"), ("c.flac", "PCM_24"), ("d.wav", "FLOAT"))
#: So many of them cover how a step meets its samples; the others differ in reading and writing.
_FOR_STEPS_ALONE = 2


def warm_up() -> None:
    """Run everything once: each step by itself and all in a row, from and to each kind of file."""
    noise = np.random.default_rng(1).standard_normal((2, round(1.2 * _RATE_HZ)))
    noise = np.where(np.arange(noise.shape[1]) < 0.6 * _RATE_HZ, 0.001, 0.1) * noise
    alone = [(step,) for step in _STEPS]
    with TemporaryDirectory() as folder:
        for channels, (number, (name, subtype)) in itertools.product((1, 2), enumerate(_KINDS)):
            take = Path(folder) / name
            with AudioWriter(take, _RATE_HZ, channels, subtype) as writer:
                writer.write(noise[:channels].astype(np.float32))
            for steps in [_STEPS, *(alone if number < _FOR_STEPS_ALONE else [])]:
                made = take.with_stem("made")
                with AudioWriter(made, _RATE_HZ, channels, subtype) as writer:
                    run_chain(AudioFile(take), tuple(map(ChainStep, steps)), writer.write)
            overview = OverviewMaker(channels)
            overview.push(AudioFile(made).read(0, _RATE_HZ))
            overview.finish()
