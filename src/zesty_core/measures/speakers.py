"""Who speaks when, found from the voices themselves.

Stretches of speech are merged two by two, those first whose merging costs least by the Bayesian
information criterion of a Gaussian each (Chen & Gopalakrishnan, DARPA Broadcast News Workshop,
1998); then every 20 ms goes to the speaker it fits best, by a hidden Markov model (Viterbi, IEEE
Trans. Inf. Theory 13(2), 1967). How much a change of speaker costs, and how far two voices must be
apart, was set on interviews made of recorded voices; no published source.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.runs import merged_runs, runs
from zesty_core.foundation.speakers import MOST_SPEAKERS, Speakers, Turn, usual_names
from zesty_core.foundation.units import power_to_db
from zesty_core.measures.speaker_clusters import merged_down
from zesty_core.measures.speaker_frames import SpeakerFrames
from zesty_core.measures.speech_events import LEAST_WORD_S, PHRASE_GAP_S, Phrase
from zesty_core.runtime.kernel import kernel

#: Speech stands so far over the quietest, and not further under the loudest.
_OVER_FLOOR_DB, _UNDER_LOUDEST_DB = 10.0, 34.0
_SMOOTHED_HOPS = 5
#: A stretch ends with a gap of so long, or when it has become so long.
_STRETCH_GAP_S, _STRETCH_S, _LEAST_STRETCH_S = 0.16, 1.5, 0.3
#: What decibels of level and side, and octaves of pitch, count beside cepstra.
_LEVEL_COUNTS, _SIDE_COUNTS, _PITCH_COUNTS = 0.5, 0.5, 3.0
_VOICED = 0.5
#: Frames are alike for a while, so each counts less than one; a change of speaker costs so much.
_FRAME_COUNTS, _CHANGE_COSTS, _MOST_EVIDENCE = 0.1, 4.0, 15.0
_ROUNDS, _FEWEST_FRAMES = 5, 40
#: A change of speaker goes to the quietest place so near.
_NEAR_S = 0.24
#: Turns of one speaker with no longer pause between them are one; shorter ones are none.
_PAUSE_S, _LEAST_TURN_S = 1.0, 0.3
#: Two voices cost at least so much to merge, for every frame of speech, and so much of what it costs
#: to merge the two that are furthest apart.
_APART_PER_FRAME, _APART_SHARE = 0.34, 0.4
#: A gap lies so far under what is loud of a speaker.
_LOUD_PERCENT, _GAP_UNDER_LOUD_DB = 90.0, 24.0


def find_speakers(frames: SpeakerFrames, count: int | None = None) -> Speakers:
    """Turns of speakers, in the order in which they first speak.

    Parameters
    ----------
    frames : SpeakerFrames
        Of the whole recording.
    count : int, optional
        How many speak; None finds out, up to four.

    Returns
    -------
    speakers : Speakers
        At most as many as were asked for; none where nobody speaks.
    """
    speech = _speech(frames)
    stretches = list(_stretches(speech, frames.hop_s))
    if not stretches:
        return Speakers((), ())
    sound = np.vstack(
        [
            frames.cepstra,
            _LEVEL_COUNTS * frames.level_dbfs,
            *([_SIDE_COUNTS * frames.side_db] if np.ptp(frames.side_db) > 1.0 else []),
        ]
    ).T.astype(np.float64)
    groups = merged_down(sound, stretches, MOST_SPEAKERS)
    number = count or _counted(groups.costs, int(speech.sum()))
    of_stretch = groups.at(min(number, len(stretches)))
    labels = np.full(len(speech), -1)
    for (start, stop), group in zip(stretches, of_stretch, strict=True):
        labels[start:stop] = group
    if number > 1:
        pitch = _PITCH_COUNTS * frames.pitch_octaves.astype(np.float64)
        labels = _fitted(sound, pitch, speech & (frames.voiced > _VOICED), speech, labels, number)
        labels = _at_gaps(labels, frames)
    return _named(labels, speech, frames.hop_s)


@dataclass(frozen=True)
class SpeakerPhrase(Phrase):
    """A phrase of one speaker."""

    speaker: int


def speaker_phrases(frames: SpeakerFrames, speakers: Speakers) -> tuple[SpeakerPhrase, ...]:
    """What each speaker says between two gaps, and its level while it sounds."""
    hop_s = frames.hop_s
    power = 10.0 ** (frames.level_dbfs.astype(np.float64) / 10.0)
    of = np.full(len(power), -1)
    for turn in speakers.turns:
        of[round(turn.start_s / hop_s) : round(turn.end_s / hop_s)] = turn.speaker
    phrases: list[SpeakerPhrase] = []
    for speaker in range(len(speakers.names)):
        own = of == speaker
        if not own.any():
            continue
        loud = np.percentile(power[own], _LOUD_PERCENT)
        sounding = own & (power > loud * 10.0 ** (-_GAP_UNDER_LOUD_DB / 10.0))
        for start, stop in merged_runs(sounding, round(PHRASE_GAP_S / hop_s)):
            # Where another speaks within the gap there are two phrases.
            for a, b in (runs(own[start:stop]) + start).tolist():
                if (b - a) * hop_s >= LEAST_WORD_S:
                    phrases.append(_phrase(power, sounding, a, b, hop_s, speaker))
    return tuple(sorted(phrases, key=lambda phrase: phrase.start_s))


def _phrase(
    power: NDArray[np.float64],
    sounding: NDArray[np.bool_],
    start: int,
    stop: int,
    hop_s: float,
    speaker: int,
) -> SpeakerPhrase:
    # The outermost frames reach beyond it.
    inside = slice(start + 1, stop - 1)
    loud = power[inside][sounding[inside]]
    level_db = power_to_db(float(loud.mean()) if len(loud) else 0.0)
    return SpeakerPhrase(
        round(start * hop_s, 2), round(stop * hop_s, 2), round(level_db, 2), speaker
    )


def assigned(phrases: Sequence[Phrase], speakers: Speakers | None) -> tuple[SpeakerPhrase, ...]:
    """Phrases with the speaker who has most of each; without speakers all are of the first."""
    turns = speakers.turns if speakers else ()
    made, first = [], 0
    for phrase in phrases:
        while first < len(turns) and turns[first].end_s <= phrase.start_s:
            first += 1
        shares: dict[int, float] = {}
        for turn in turns[first:]:
            if turn.start_s >= phrase.end_s:
                break
            both_s = min(turn.end_s, phrase.end_s) - max(turn.start_s, phrase.start_s)
            shares[turn.speaker] = shares.get(turn.speaker, 0.0) + both_s
        by = max(shares, key=lambda speaker: shares[speaker], default=0)
        made.append(SpeakerPhrase(phrase.start_s, phrase.end_s, phrase.level_dbfs, by))
    return tuple(made)


def _speech(frames: SpeakerFrames) -> NDArray[np.bool_]:
    power = 10.0 ** (frames.level_dbfs.astype(np.float64) / 10.0)
    smooth = np.convolve(power, np.full(_SMOOTHED_HOPS, 1.0 / _SMOOTHED_HOPS), "same")
    level_db = 10.0 * np.log10(smooth + 1e-12)
    if not len(level_db):
        return np.zeros(0, bool)
    floor_db, loudest_db = np.percentile(level_db, (8, 97))
    return np.asarray(
        level_db > max(floor_db + _OVER_FLOOR_DB, loudest_db - _UNDER_LOUDEST_DB, -90.0)
    )


def _stretches(speech: NDArray[np.bool_], hop_s: float) -> Iterator[tuple[int, int]]:
    for start, stop in merged_runs(speech, round(_STRETCH_GAP_S / hop_s)):
        parts = max(1, round((stop - start) * hop_s / _STRETCH_S))
        edges = np.linspace(start, stop, parts + 1).astype(int).tolist()
        for first, end in itertools.pairwise(edges):
            if (end - first) * hop_s >= _LEAST_STRETCH_S:
                yield first, end


def _counted(costs: NDArray[np.float64], frames: int) -> int:
    """How many speak: ``costs[k]`` is that of merging from k + 2 groups to k + 1."""
    number = 1
    for cost in costs[:3].tolist():
        if cost < _APART_PER_FRAME * frames or cost < _APART_SHARE * costs[0]:
            break
        number += 1
    return number


@kernel
def _best_way(evidence: NDArray[np.float64], change_costs: float, way: NDArray[np.int64]) -> None:
    """Speaker of every frame (Viterbi)."""
    frames, number = evidence.shape
    score = evidence[0].copy()
    came = np.zeros((frames, number), np.int8)
    for t in range(1, frames):
        best = 0
        for k in range(1, number):
            if score[k] > score[best]:
                best = k
        changed = score[best] - change_costs
        for k in range(number):
            if score[k] >= changed:
                came[t, k] = k
            else:
                came[t, k] = best
                score[k] = changed
            score[k] += evidence[t, k]
    at = 0
    for k in range(1, number):
        if score[k] > score[at]:
            at = k
    for t in range(frames - 1, -1, -1):
        way[t] = at
        at = came[t, at]


def _fitted(
    sound: NDArray[np.float64],
    pitch: NDArray[np.float64],
    voiced: NDArray[np.bool_],
    speech: NDArray[np.bool_],
    labels: NDArray[np.int64],
    number: int,
) -> NDArray[np.int64]:
    """Every frame to the speaker it fits best, whose picture is then taken anew."""
    kinds = (
        (np.flatnonzero(voiced), np.column_stack([sound, pitch])),
        (np.flatnonzero(speech & ~voiced), sound),
    )
    for _ in range(_ROUNDS):
        evidence = np.zeros((len(labels), number))
        for frames, values in kinds:
            if len(frames) > values.shape[1]:
                evidence[frames] = _evidence(values[frames], labels[frames], number)
        way = np.empty(len(labels), np.int64)
        _best_way(evidence, _CHANGE_COSTS, way)
        settled = np.array_equal(way[speech], labels[speech])
        labels = way
        if settled:
            break
    return labels


def _evidence(
    values: NDArray[np.float64], labels: NDArray[np.int64], number: int
) -> NDArray[np.float64]:
    """Log-likelihood of each speaker's Gaussian, none below the best by more than is to count."""
    every = np.cov(values.T)
    likely = np.full((len(values), number), -np.inf)
    for speaker in range(number):
        own = values[labels == speaker]
        if len(own) < _FEWEST_FRAMES:
            continue
        spread = 0.9 * np.cov(own.T) + 0.1 * every + 1e-4 * np.eye(len(every))
        lower = np.linalg.cholesky(spread)
        away = np.linalg.solve(lower, (values - own.mean(axis=0)).T)
        likely[:, speaker] = -0.5 * np.square(away).sum(axis=0) - np.log(np.diag(lower)).sum()
    best = likely.max(axis=1, keepdims=True)
    if not np.isfinite(best).all():
        return np.zeros_like(likely)
    return np.asarray(_FRAME_COUNTS * np.maximum(likely - best, -_MOST_EVIDENCE))


def _at_gaps(labels: NDArray[np.int64], frames: SpeakerFrames) -> NDArray[np.int64]:
    """Changes of speaker at the quietest place near by."""
    near = round(_NEAR_S / frames.hop_s)
    moved = labels.copy()
    changes = np.flatnonzero(labels[1:] != labels[:-1]) + 1
    edges = np.concatenate([[0], changes, [len(labels)]]).tolist()
    for before, at, after in zip(edges[:-2], edges[1:-1], edges[2:], strict=True):
        first, stop = max(at - near, (before + at) // 2), min(at + near, (at + after) // 2) + 1
        quietest = first + int(np.argmin(frames.level_dbfs[first:stop]))
        moved[min(at, quietest) : quietest] = labels[at - 1]
        moved[quietest : max(at, quietest)] = labels[at]
    return moved


def _named(labels: NDArray[np.int64], speech: NDArray[np.bool_], hop_s: float) -> Speakers:
    turns: list[Turn] = []
    for speaker in np.unique(labels[speech]).tolist():
        own = speech & (labels == speaker)
        others = np.cumsum(speech & ~own)
        found: list[list[int]] = []
        for start, stop in runs(own).tolist():
            joins = found and (start - found[-1][1]) * hop_s <= _PAUSE_S
            if joins and others[start] == others[found[-1][1] - 1]:
                found[-1][1] = stop
            else:
                found.append([start, stop])
        turns += [
            Turn(round(start * hop_s, 2), round(stop * hop_s, 2), speaker)
            for start, stop in found
            if (stop - start) * hop_s >= _LEAST_TURN_S
        ]
    turns.sort(key=lambda turn: turn.start_s)
    order = list(dict.fromkeys(turn.speaker for turn in turns))
    return Speakers(
        usual_names(len(order)),
        tuple(Turn(t.start_s, t.end_s, order.index(t.speaker)) for t in turns),
    )
