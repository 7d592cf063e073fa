"""Room tone on its way through a chain: what the steps further on learn from."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from zesty_core.audio.resample import resampled
from zesty_core.foundation.room_tone import LONGEST_S, RoomTone
from zesty_core.foundation.signal import Block, SignalInfo, Source, Span, joined
from zesty_core.foundation.units import level_or_none, power_to_db
from zesty_core.measures.report import Measures
from zesty_core.steps.base import Facts, Step, process_blocks

_PRE_ROLL_S = 0.5
#: A pause this long, found by itself, tells the room well enough.
_LONG_S = 1.5
#: Of sound in which somebody speaks.
_SPOKEN_S = 15.0


def noise_span(given: RoomTone | None, measures: Measures) -> tuple[Span | None, str]:
    """Span the noise floor is read from along a chain, and where the room tone comes from:
    marked, found, other recording, none."""
    found = measures.found_room_tone
    if given and given.spans:
        return max(given.spans, key=lambda span: span.duration_s), "marked"
    if given:
        return found or measures.noise_floor_span, given.source
    return found or measures.noise_floor_span, "found" if found else "none"


def noise_at(source: Source, span: Span) -> float | None:
    """Level in dBFS of a span without its DC offset; None for digital silence."""
    start, stop = span.samples(source.info.sample_rate_hz)
    power = float(source.read(start, stop).var(axis=1, dtype=np.float64).mean())
    return level_or_none(power_to_db(power))


@dataclass(frozen=True)
class TonePiece:
    """A stretch of room tone behind ``lead`` samples that steps need before it."""

    sound: Block
    lead: int


def shortened(piece: TonePiece, info: SignalInfo, length_s: float) -> TonePiece:
    """At most ``length_s`` of a piece, from its start."""
    stop = piece.lead + round(length_s * info.sample_rate_hz)
    return TonePiece(piece.sound[:, :stop], piece.lead)


def learned_spans(given: RoomTone | None, measures: Measures) -> tuple[Span, ...]:
    """Where in the recording noise is learned from: what is marked, else what was found; nowhere
    when the room tone is from elsewhere, or none."""
    return given.spans if given else measures.learned_spans


def tone_before(source: Source, given: RoomTone | None, measures: Measures) -> list[TonePiece]:
    """Room tone as recorded: the given one, else what was found; empty when there is none."""
    info = source.info
    rate = info.sample_rate_hz
    if given and given.samples is not None:
        tone = resampled(given.samples, given.sample_rate_hz, rate)
        if len(tone) != info.channels:
            tone = np.repeat(tone.mean(axis=0, keepdims=True), info.channels, axis=0)
        return [TonePiece(tone[:, : round(LONGEST_S * rate)], 0)]
    pieces = []
    left = round(LONGEST_S * rate)
    for span in learned_spans(given, measures):
        start, stop = span.samples(rate)
        stop = min(stop, start + left)
        lead = min(start, round(_PRE_ROLL_S * rate))
        pieces.append(TonePiece(source.read(start - lead, stop), lead))
        left -= stop - start
        if left <= 0:
            break
    return pieces


def spoken_before(source: Source, given: RoomTone | None, measures: Measures) -> list[TonePiece]:
    """A stretch in which somebody speaks, as recorded, where room tone was not given and what was found
    is short; empty elsewhere."""
    found = measures.learned_spans
    if given or not measures.room_is_heard or any(s.duration_s >= _LONG_S for s in found):
        return []
    info = source.info
    rate, length = info.sample_rate_hz, round(_SPOKEN_S * info.sample_rate_hz)
    about = found[0] if found else measures.noise_floor_span
    middle = round((about.start_s + about.end_s) / 2 * rate) if about else 0
    start = max(0, min(middle - length // 2, info.length_samples - length))
    lead = min(start, round(_PRE_ROLL_S * rate))
    return [TonePiece(source.read(start - lead, min(start + length, info.length_samples)), lead)]


def tone_after(
    pieces: Sequence[TonePiece], steps: Iterable[tuple[Step, Facts]], info: SignalInfo
) -> Block | None:
    """Room tone after ``steps``, shape (channels, samples); None when there is none."""
    if not pieces:
        return None
    steps = list(steps)
    made = []
    for piece in pieces:
        blocks: Iterable[Block] = [piece.sound]
        for step, facts in steps:
            blocks = process_blocks(step.start(info, step.facts_from(facts, None)), blocks)
        made.append(joined(blocks, info.channels)[:, piece.lead :])
    return np.concatenate(made, axis=1)
