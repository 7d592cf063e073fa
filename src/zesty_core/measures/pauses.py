"""Finds long pauses and places a cut in each.

A pause is a run of 10 ms hops near the level of the room. Common practice, no published source: level
alone cannot separate a breath or a soft consonant from the room, so sound near words is kept, and the
cut goes where the room is quietest and matches best on both sides of the join.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.runs import runs
from zesty_core.foundation.signal import Source, Span, Spans
from zesty_core.foundation.units import db_to_factor, seconds_to_samples

SHORTEST_S, LONGEST_S = 0.2, 10.0
_HOP_S = 0.01
#: Level over the room, or below the voice, that ends a pause.
_OVER_ROOM_DB, _UNDER_VOICE_DB = 7.0, 34.0
_LEAST_UNDER_VOICE_DB = 10.0
#: Shorter cuts are not worth a join.
_LEAST_CUT_S = 0.05
#: A click within a pause does not end it.
_LEAST_SOUND_S = 0.03
#: Least share of the kept pause on either side of the join.
_LEAST_SHARE = 0.25
_AROUND_HOPS = 3
#: Range of the alignment, and length of the correlation window.
_FINE_S, _LIKE_S = 0.012, 0.02


@dataclass(frozen=True)
class Pause:
    """A pause between two words and the cut that shortens it, in edited times."""

    span: Span
    cut: Span


def long_pauses(
    source: Source,
    longest_s: float,
    voice_level_dbfs: float | None,
    noise_floor_dbfs: float | None,
    excluded: Spans = (),
) -> list[Pause]:
    """Pauses longer than ``longest_s``, which is what each cut leaves of its pause.

    Head and tail are no pauses. Pauses that touch an ``excluded`` span (start_s, end_s) are left out.
    A recording without a voice has no pauses.

    Parameters
    ----------
    source : Source
        The recording.
    longest_s : float
        What may stay of a pause.
    voice_level_dbfs, noise_floor_dbfs : float or None
        As measured; None where there is none.
    excluded : sequence of (start_s, end_s), optional
        Spans to keep out of.

    Returns
    -------
    pauses : list of Pause
        In order, each with the span to cut.
    """
    if voice_level_dbfs is None:
        return []
    power = _power_of_hops(source)
    limit = _limit_dbfs(voice_level_dbfs, noise_floor_dbfs)
    sounding = [
        (start, stop)
        for start, stop in runs(power > db_to_factor(limit) ** 2).tolist()
        if (stop - start) * _HOP_S >= _LEAST_SOUND_S
    ]
    found = []
    for (_, start), (stop, _) in pairwise(sounding):
        span = Span(start * _HOP_S, stop * _HOP_S)
        if span.duration_s <= longest_s + _LEAST_CUT_S or _touches(span, excluded):
            continue
        rough = _quietest_cut(power, start, stop, round(longest_s / _HOP_S))
        found.append(Pause(span, _aligned(source, rough)))
    return found


def _touches(span: Span, spans: Spans) -> bool:
    return any(s["start_s"] <= span.end_s and s["end_s"] >= span.start_s for s in spans)


def _limit_dbfs(voice_level_dbfs: float, noise_floor_dbfs: float | None) -> float:
    under_voice = voice_level_dbfs - _UNDER_VOICE_DB
    over_room = under_voice if noise_floor_dbfs is None else noise_floor_dbfs + _OVER_ROOM_DB
    return min(max(over_room, under_voice), voice_level_dbfs - _LEAST_UNDER_VOICE_DB)


def _power_of_hops(source: Source) -> NDArray[np.float64]:
    """Mean square of every 10 ms, channels together, without the offset of each block."""
    hop = seconds_to_samples(_HOP_S, source.info.sample_rate_hz)
    powers = []
    for block in source.blocks(hop * 4096):
        whole = block[:, : block.shape[1] // hop * hop].astype(np.float64)
        whole -= whole.mean(axis=1, keepdims=True) if whole.size else 0.0
        cells = whole.reshape(len(block), -1, hop)
        powers.append(np.mean(cells**2, axis=(0, 2)))
    return np.concatenate(powers) if powers else np.zeros(0)


def _quietest_cut(power: NDArray[np.float64], start: int, stop: int, kept: int) -> Span:
    """Cut that leaves ``kept`` hops, with the quietest and best matching levels at the join."""
    least = max(1, round(kept * _LEAST_SHARE))
    level_db = 10.0 * np.log10(power[start:stop] + 1e-15)
    smooth = np.convolve(
        np.pad(level_db, _AROUND_HOPS, "edge"),
        np.full(2 * _AROUND_HOPS + 1, 1.0 / (2 * _AROUND_HOPS + 1)),
        "valid",
    )
    before = np.arange(least, max(least + 1, kept - least + 1))
    behind = (stop - start) - (kept - before)
    left, right = smooth[before], smooth[np.minimum(behind, len(smooth) - 1)]
    best = int(np.argmin(left + right + np.abs(left - right)))
    return Span((start + int(before[best])) * _HOP_S, (start + int(behind[best])) * _HOP_S)


def _aligned(source: Source, cut: Span) -> Span:
    """The cut with its end moved by up to 12 ms to the best correlation with its start."""
    rate = source.info.sample_rate_hz
    reach, size = seconds_to_samples(_FINE_S, rate), seconds_to_samples(_LIKE_S, rate)
    start, stop = cut.samples(rate)
    wanted = source.read(start - size // 2, start + size // 2).mean(axis=0, dtype=np.float64)
    there = source.read(stop - size // 2 - reach, stop + size // 2 + reach)
    around = there.mean(axis=0, dtype=np.float64)
    if len(wanted) < 2 or len(around) < len(wanted) + 2 * reach or not np.any(wanted):
        return cut
    windows = np.lib.stride_tricks.sliding_window_view(around, len(wanted))
    correlation = windows @ wanted / (np.linalg.norm(windows, axis=1) + 1e-12)
    moved = int(np.argmax(correlation)) - reach
    return Span(cut.start_s, (stop + moved) / rate)
