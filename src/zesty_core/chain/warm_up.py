"""Compile every kernel once, so that nobody waits for the compiler later.

Runs all step types on two seconds of made-up sound, mono and stereo; the compiled code is kept
beside the sources.
"""

from __future__ import annotations

import itertools
import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from zesty_core.audio.reader import AudioFile
from zesty_core.audio.writer import AudioWriter
from zesty_core.chain.recipe import ChainStep
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.signal import Block, SignalInfo, joined
from zesty_core.measures.overview import OverviewMaker
from zesty_core.runtime.cores import cores
from zesty_core.steps.base import Step, StepInput, process_blocks
from zesty_core.steps.registry import STEP_TYPES

_RATE_HZ = 48_000


#: Kinds of files; a kernel is compiled anew for each way in which its samples lie in memory.
_KINDS = (("a.wav", "PCM_16"), ("b.wav", "PCM_24"), ("c.flac", "PCM_24"), ("d.wav", "FLOAT"))
#: So many of them cover how a step meets its samples; the others differ in reading and writing.
_FOR_STEPS_ALONE = 2


def warm_up() -> None:
    """Run everything once: each step by itself and all in a row, from and to each kind of file.

    With two processors another process compiles what steps can do without measures, last step first.
    """
    cases = [case for step_type in STEP_TYPES.values() for case in step_type.warm_up_cases()]
    # Those that the other process can start come last, when it has compiled them.
    cases.sort(key=lambda case: not _needs_measures(case))
    ahead = None
    if cores() > 1:
        # A new interpreter: a copy of this one might hold the compiler's locks.
        ahead = subprocess.Popen([sys.executable, "-m", __name__])
    _run_everything(cases)
    if ahead is not None:
        ahead.wait()


def _needs_measures(step: Step) -> bool:
    return bool(step.measures_wanted or step.needs_room_tone or step.wants_trial)


def _start_without_measures() -> None:
    """Put sound straight through each step that needs nothing else."""
    cases = [case for step_type in STEP_TYPES.values() for case in step_type.warm_up_cases()]
    for case, channels in itertools.product(reversed(cases), (1, 2)):
        if not _needs_measures(case):
            sound = _sound()[:channels]
            info = SignalInfo(_RATE_HZ, *sound.shape)
            joined(process_blocks(case.start(info, case.facts(StepInput(info))), [sound]), channels)


def _sound() -> Block:
    """Noise of a room, then louder noise; two channels."""
    noise = np.random.default_rng(1).standard_normal((2, round(1.2 * _RATE_HZ)))
    loud = np.arange(noise.shape[1]) >= 0.6 * _RATE_HZ
    return (np.where(loud, 0.1, 0.001) * noise).astype(np.float32)


def _run_everything(steps: Sequence[Step]) -> None:
    alone = [(step,) for step in steps]
    with TemporaryDirectory() as folder:
        for channels, (number, kind) in itertools.product((1, 2), enumerate(_KINDS)):
            rows = [*(alone if number < _FOR_STEPS_ALONE else []), steps]
            _run_rows(rows, _sound()[:channels], Path(folder), *kind)


def _run_rows(
    rows: Sequence[Sequence[Step]], sound: Block, folder: Path, name: str, subtype: str
) -> None:
    """Run each row of steps from and to one kind of file, and draw the result."""
    take = folder / name
    with AudioWriter(take, _RATE_HZ, len(sound), subtype) as writer:
        writer.write(sound)
    made = take.with_stem("made")
    for row in rows:
        with AudioWriter(made, _RATE_HZ, len(sound), subtype) as writer:
            run_chain(AudioFile(take), tuple(map(ChainStep, row)), writer.write)
    overview = OverviewMaker(len(sound))
    overview.push(AudioFile(made).read(0, _RATE_HZ))
    overview.finish()


if __name__ == "__main__":
    _start_without_measures()
