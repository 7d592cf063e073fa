"""Measuring a stream with a thread for each part."""

from __future__ import annotations

import numpy as np
import pytest

from tests.made_sound import RATE, noise, spoken
from zesty_core.errors import UnreadableAudio
from zesty_core.measure.report import LEVEL_PARTS, FullMeter
from zesty_core.measure.stream import measure
from zesty_core.signal import SignalInfo


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


def test_what_goes_wrong_in_reading_is_told():
    def blocks():
        yield np.zeros((1, RATE), np.float32)
        raise UnreadableAudio("take.wav", "ends early")

    with pytest.raises(UnreadableAudio, match="ends early"):
        measure(blocks(), SignalInfo(RATE, 1, 2 * RATE))
