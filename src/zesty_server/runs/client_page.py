"""A run as a page to show a client."""

from __future__ import annotations

import numpy as np

from zesty_core.audio.reader import AudioFile
from zesty_core.compare.client_page import LONGEST_S, client_page
from zesty_core.compare.findings import differences_told
from zesty_server.runs.models import Run


def client_page_of(run: Run) -> str:
    """The page, of the first ten minutes at most."""
    pair = AudioFile(run.pair_path, run.result_name)
    rate = pair.info.sample_rate_hz
    sound = pair.read(0, min(pair.info.length_samples, round(LONGEST_S * rate)))
    half = len(sound) // 2
    before, after = (np.ascontiguousarray(side) for side in (sound[:half], sound[half:]))
    measures = run.before or {}, run.after or {}
    return client_page(
        run.recording.name, before, after, rate, measures, differences_told(*measures)
    )
