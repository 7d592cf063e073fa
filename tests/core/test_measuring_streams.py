"""Measuring a stream on several cores."""

from __future__ import annotations

import gc
import weakref

import numpy as np
import pytest

from tests.made_sound import RATE, noise, spoken
from zesty_core.foundation.errors import UnreadableAudio
from zesty_core.foundation.signal import SignalInfo, Span
from zesty_core.measures.full_meter import FullMeter
from zesty_core.measures.report import LEVEL_PARTS
from zesty_core.measures.stream import measure


def in_blocks(sound, size=30_001):
    return (sound[:, i : i + size] for i in range(0, sound.shape[1], size))


@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize("parts", [FullMeter.PARTS, LEVEL_PARTS, frozenset({"loudness"})])
def test_side_by_side_measures_what_one_after_the_other_does(channels, parts):
    sound = spoken(6, RATE, channels=channels) + noise(-55, 6, RATE, 3, channels)
    info = SignalInfo(RATE, channels, sound.shape[1])
    alone = FullMeter(info, parts=parts)
    for block in in_blocks(sound):
        alone.push(block)
    assert measure(in_blocks(sound), info, parts=parts).as_json() == alone.finish().as_json()


def test_a_meter_takes_no_memory_once_nobody_holds_it():
    # What it keeps grows with the recording; a search for cycles may come after the next passes.
    meter = FullMeter(SignalInfo(RATE, 1, RATE))
    meter.push(noise(-40, 1))
    kept = weakref.ref(meter._noise)
    gc.disable()
    try:
        assert meter.finish().noise_floor_dbfs == pytest.approx(-40, abs=0.5)
        del meter
        assert kept() is None
    finally:
        gc.enable()


@pytest.mark.parametrize("parts", [FullMeter.PARTS, FullMeter.OF_RESULTS, LEVEL_PARTS])
def test_noise_is_read_at_the_span_that_is_given_without_its_offset(parts):
    sound = np.concatenate([noise(-60, 1), noise(-40, 1, seed=2), noise(-20, 1)], axis=1) + 0.1
    measures = measure(in_blocks(sound), SignalInfo(RATE, 1, 3 * RATE), Span(1.1, 1.8), parts)
    assert measures.noise_floor_source == "room tone"
    assert measures.noise_floor_dbfs == pytest.approx(-40, abs=0.2)
    assert measures.noise_floor_span == Span(1.1, 1.8)
    assert measures.is_full == (parts != LEVEL_PARTS)


def test_what_goes_wrong_in_reading_is_told():
    def blocks():
        yield np.zeros((1, RATE), np.float32)
        raise UnreadableAudio("take.wav", "ends early")

    with pytest.raises(UnreadableAudio, match="ends early"):
        measure(blocks(), SignalInfo(RATE, 1, 2 * RATE))
