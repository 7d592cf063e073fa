"""Stereo folded to mono for a mono delivery: after the chain, before its final level steps.

What a chain does to each side by itself (levels brought together, a side's own noise taken away)
stays in the sum. The final level is that of the one channel, because that is what is listened to.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from contextlib import closing
from dataclasses import replace
from pathlib import Path

import numpy as np

from zesty_core.audio.channels import MonoSource
from zesty_core.chain.recipe import Chain, ChainStep
from zesty_core.chain.runner import ChainResult, Progress, Sink, run_chain
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import Block, Source
from zesty_core.foundation.spool import Spool
from zesty_core.measures.full_meter import FullMeter
from zesty_core.measures.report import Measures
from zesty_core.measures.stream import measure
from zesty_core.steps.normalize import Normalize

_FINAL_LEVEL = ("limiter", "loudness", "gain", "normalize")
#: Share of the work, by trial.
_BODY_SHARE = 0.85


def final_level_of(chain: Chain) -> tuple[Chain, Chain]:
    """The chain up to the steps that set its final level, and these steps.

    A normalize step that treats each side by itself needs both of them and is none of these.
    """
    at = len(chain)
    while at > 0 and (not chain[at - 1].is_active or _sets_final_level(chain[at - 1])):
        at -= 1
    return chain[:at], chain[at:]


def _sets_final_level(entry: ChainStep) -> bool:
    step = entry.step
    per_side = isinstance(step, Normalize) and not step.link_channels
    return step.type in _FINAL_LEVEL and not per_side


def run_folded(
    source: Source,
    chain: Chain,
    sink: Sink,
    *,
    also: Sequence[Sink] = (),
    room_tone: RoomTone | None = None,
    before: Measures | None = None,
    progress: Callable[[Progress], None] = lambda progress: None,
    cancelled: Callable[[], bool] = lambda: False,
    work_folder: Path | None = None,
) -> ChainResult:
    """Process two channels and hand one to the sinks; all else as in :func:`run_chain`."""
    body, final = final_level_of(chain)
    with closing(Spool(replace(source.info, channels=1), work_folder)) as spool:
        first = fold_into(
            spool,
            source,
            body,
            room_tone=room_tone,
            before=before,
            progress=lambda p: progress(replace(p, share=p.share * _BODY_SHARE)),
            cancelled=cancelled,
            work_folder=work_folder,
        )
        last = run_chain(
            spool,
            final,
            sink,
            also=also,
            room_tone=tone_behind(first),
            before=first.after,
            progress=lambda p: progress(
                replace(p, share=_BODY_SHARE + p.share * (1 - _BODY_SHARE))
            ),
            cancelled=cancelled,
            work_folder=work_folder,
        )
    return joined(first, last)


def fold_into(
    spool: Spool,
    source: Source,
    body: Chain,
    *,
    room_tone: RoomTone | None,
    before: Measures | None,
    progress: Callable[[Progress], None],
    cancelled: Callable[[], bool],
    work_folder: Path | None,
) -> ChainResult:
    """Run ``body`` into a spool of one channel.

    The measures before and after are of one channel too, so that their difference is the chain's.
    """

    def write_mean(block: Block) -> None:
        spool.write(block.mean(axis=0, keepdims=True, dtype=np.float32))

    result = run_chain(
        source,
        body,
        write_mean,
        room_tone=room_tone,
        before=before,
        progress=progress,
        cancelled=cancelled,
        work_folder=work_folder,
    )
    spool.rewind()
    return replace(
        result,
        before=_measured(MonoSource(source, "mean"), result),
        after=_measured(spool, result),
    )


def _measured(source: Source, result: ChainResult) -> Measures:
    return measure(source.blocks(), source.info, result.room_tone, FullMeter.OF_RESULTS)


def tone_behind(first: ChainResult) -> RoomTone | None:
    """The noise is read where the chain so far has read it."""
    return RoomTone(spans=(first.room_tone,)) if first.room_tone else None


def joined(first: ChainResult, last: ChainResult) -> ChainResult:
    """Two parts of a chain as one."""
    return replace(first, after=last.after, points=first.points + last.points)
