"""How long a passage takes: the whole chain, and after a late setting was changed."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
from bench.work import EIGHT

from zesty_core.audio.reader import AudioFile
from zesty_core.chain.recipe import ChainStep, chain_from_json
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.signal import Span
from zesty_core.live.passage import PassageCache, render_passage
from zesty_core.runtime.allocator import keep_freed_memory

_TIMES = 20


def passage_times_ms(take: Path) -> tuple[float, float]:
    """95th percentile for a passage of 10 s: all steps, and with the compressor's ratio changed."""
    keep_freed_memory()  # as the server does
    source = AudioFile(take)
    chain = chain_from_json(EIGHT)
    facts = {i: p.facts for i, p in enumerate(run_chain(source, chain, lambda _: None).points)}
    span = Span(60.0, 70.0)
    cache = PassageCache()

    def whole(_: int) -> None:
        render_passage(source, chain, facts, span)

    def late(turn: int) -> None:
        at = next(i for i, c in enumerate(chain) if c.step.type == "compressor")
        turned = replace(chain[at].step, ratio=2.0 + 0.1 * turn)
        changed = (*chain[:at], ChainStep(turned), *chain[at + 1 :])
        render_passage(source, changed, facts, span, cache)

    late(0)
    return _slowest(whole), _slowest(late)


def _slowest(work: Callable[[int], None]) -> float:
    spent = []
    for turn in range(1, _TIMES + 1):
        start = time.perf_counter()
        work(turn)
        spent.append(1000 * (time.perf_counter() - start))
    return float(np.percentile(spent, 95))
