"""Cuts by their arithmetic, and what room tone may be."""

from __future__ import annotations

import numpy as np
import pytest

from tests.made_sound import RATE, noise
from zesty_core.audio.cuts import CutSource
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import ArraySource, SignalInfo, Span

HALF = int(0.005 * RATE)


def cut(sound, *spans):
    return CutSource(ArraySource(sound, RATE), [Span(a, b) for a, b in spans])


def whole(source, block=9_999):
    return np.concatenate(list(source.blocks(block)), axis=1)


@pytest.mark.parametrize(
    ("spans", "left_s"),
    [
        ([(0, 1)], 3.0),
        ([(3, 4)], 3.0),
        ([(1, 2)], 3.0),
        ([(1, 2), (2.5, 3)], 2.5),
        ([(0, 0.5), (3.5, 4)], 3.0),
        ([(1, 2.5), (2, 3)], 2.0),
        ([(2, 3), (0.5, 1)], 2.5),
    ],
)
def test_what_is_left_has_its_length_and_its_samples(spans, left_s):
    sound = noise(-20, 4, channels=2)
    source = cut(sound, *spans)
    out = whole(source)
    assert out.shape == (2, round(left_s * RATE))
    assert source.info.duration_s == pytest.approx(left_s)
    # Away from joins every sample is one of the original, in order.
    kept = np.ones(4 * RATE, bool)
    near = np.zeros(4 * RATE, bool)
    for start, end in spans:
        kept[round(start * RATE) : round(end * RATE)] = False
        for edge in (start, end):
            at = round(edge * RATE)
            near[max(0, at - HALF) : at + HALF] = True
    plain = ~near[kept]
    assert np.array_equal(out[:, plain], sound[:, kept][:, plain])


@pytest.mark.parametrize("block", [1, 100, 7_000])
def test_blocks_and_single_reads_agree(block):
    source = cut(noise(-20, 0.3), (0.1, 0.2))
    once = source.read(0, source.info.length_samples)
    assert np.array_equal(whole(source, block), once)
    assert np.array_equal(source.read(4_000, 6_000), once[:, 4_000:6_000])
    assert source.read(-10, 5).shape == (1, 5)


def test_a_join_keeps_a_constant_sound_constant():
    out = whole(cut(np.full((1, 2 * RATE), 0.5, np.float32), (0.7, 1.2)))
    assert out == pytest.approx(0.5, abs=1e-6)


def test_cutting_everything_is_refused():
    with pytest.raises(BadInput, match="leave nothing"):
        cut(noise(-20, 1), (0, 1))


INFO = SignalInfo(RATE, 1, 10 * RATE)


@pytest.mark.parametrize(
    "tone",
    [
        RoomTone(spans=(Span(0, 0.05),)),
        RoomTone(spans=(Span(1, 1.03), Span(2, 2.03))),
        RoomTone(samples=noise(-50, 0.05), sample_rate_hz=RATE),
        RoomTone(samples=noise(-50, 1, 16_000), sample_rate_hz=16_000),
    ],
)
def test_enough_room_tone_is_taken(tone):
    assert tone.checked(INFO) is tone


@pytest.mark.parametrize(
    ("tone", "told"),
    [
        (RoomTone(), "at least 0.05 s, got 0.000"),
        (RoomTone(spans=(Span(1, 1.04),)), "at least 0.05 s, got 0.040"),
        (RoomTone(spans=(Span(9, 11),)), "within 0 and 10.000 s"),
        (RoomTone(spans=(Span(1, 2), Span(5, 4))), "the start before the end"),
        (RoomTone(samples=noise(-50, 0.04), sample_rate_hz=RATE), "got 0.040"),
    ],
)
def test_too_little_or_misplaced_room_tone_is_refused(tone, told):
    with pytest.raises(BadInput, match=told):
        tone.checked(INFO)
