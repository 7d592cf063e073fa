"""A run as a page to show a client."""

from __future__ import annotations

import numpy as np

from zesty_core.compare.client_page import LONGEST_S, client_page
from zesty_core.compare.findings import differences_in_words
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.signal import Span
from zesty_server.runs.models import Run
from zesty_server.runs.pair import pair_of

_SHORTEST_S = 0.1


def client_page_of(run: Run, start_s: float = 0.0, end_s: float | None = None) -> str:
    """The page, of a stretch if one is given; of ten minutes at most, from its beginning."""
    pair = pair_of(run)
    rate, whole_s = pair.info.sample_rate_hz, pair.info.duration_s
    span = Span.checked(start_s, whole_s if end_s is None else end_s, "stretch", whole_s)
    if span.duration_s < _SHORTEST_S:
        raise BadInput(f"stretch: must last at least {_SHORTEST_S:g} s", path="end_s")
    start, stop = span.samples(rate)
    sound = pair.read(start, min(stop, start + round(LONGEST_S * rate)))
    half = len(sound) // 2
    before, after = (np.ascontiguousarray(side) for side in (sound[:half], sound[half:]))
    measures = run.before or {}, run.after or {}
    told = differences_in_words(*measures)
    return client_page(
        run.recording.name, before, after, rate, measures, told, start_s=start_s, whole_s=whole_s
    )
