"""House voice: one voice through two microphones comes to one tone; nothing of the room is boosted."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.signal import firwin2, oaconvolve

from tests.interview import lines
from tests.made_sound import RATE, noise
from zesty_core.chain.recipe import ChainStep
from zesty_core.chain.runner import run_chain
from zesty_core.dsp.tone_fit import FittedBand, fit_bands, response_db
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.signal import ArraySource, Span, joined
from zesty_core.live.passage import render_passage
from zesty_core.measures.full_meter import FullMeter
from zesty_core.measures.house_voice import TONE_HZ, distance_from, house_voice_of
from zesty_core.measures.stream import measure
from zesty_core.steps.house_voice import HouseVoiceStep

#: Gain in dB of a microphone and its room against another, each up to 8 dB in a third octave.
MICROPHONES = {
    "dull": [(100, 3), (250, 5), (800, 0), (2500, -2), (5000, -6), (10_000, -8)],
    "thin": [(100, -8), (200, -6), (500, 0), (3000, 4), (6000, 6), (10_000, 2)],
    "boxy": [(100, 0), (300, 6), (500, 8), (900, 3), (2000, -2), (10_000, 0)],
}


def through(sound, points):
    """A smooth response through the points, in dB over log frequency, by a linear-phase filter."""
    freqs = np.geomspace(20, RATE / 2, 400)
    gain_db = np.interp(np.log(freqs), np.log([f for f, _ in points]), [g for _, g in points])
    grid = np.concatenate([[0], freqs])
    taps = firwin2(8191, grid, 10 ** (np.concatenate([gain_db[:1], gain_db]) / 20), fs=RATE)
    return oaconvolve(sound[0], taps, "same")[None].astype(np.float32)


@pytest.fixture(scope="module")
def voice():
    sound = np.concatenate(
        [np.concatenate([line, np.zeros(RATE // 2)]) for line in lines("letters-warden")]
    )
    return sound[None].astype(np.float32)


def in_room(sound, level_dbfs=-72):
    return sound + noise(level_dbfs, sound.shape[1] / RATE)[:, : sound.shape[1]]


def measures_of(sound):
    source = ArraySource(sound, RATE)
    return measure(source.blocks(), source.info, parts=FullMeter.PARTS).as_json()


def step_for(house, **params):
    tone = [{"freq_hz": f, "level_db": db} for f, db in zip(TONE_HZ, house.tone_db, strict=True)]
    return ChainStep(HouseVoiceStep.from_params({"tone": tone} | params))


def processed(sound, step):
    out = []
    result = run_chain(ArraySource(sound, RATE), (step,), out.append)
    return joined(out, 1), result


@pytest.mark.parametrize("name", MICROPHONES)
def test_two_microphones_come_to_one_tone(voice, name):
    house = house_voice_of([measures_of(in_room(voice))])
    other = in_room(through(voice, MICROPHONES[name]))
    before = distance_from(measures_of(other), house)
    out, result = processed(other, step_for(house))
    after = distance_from(measures_of(out), house)
    assert before.tone_db > 2.5
    assert after.tone_db < 1.5
    report = result.points[0].report
    assert 1 <= len(report["bands"]) <= 6
    assert report["apart_after_db"] < 1.5 < report["apart_before_db"]
    for _, _, _, gain_db in result.points[0].facts["bands"]:
        assert abs(gain_db) <= 6


def test_nothing_is_boosted_where_the_room_is_near(voice):
    """A hissing room within 10 dB of a dull voice's highs: these stay down."""
    house = house_voice_of([measures_of(in_room(voice))])
    dull = in_room(through(voice, MICROPHONES["dull"]), -42)
    _, result = processed(dull, step_for(house))
    bands = result.points[0].facts["bands"]
    assert bands
    assert all(gain_db <= 0.3 for _, freq_hz, _, gain_db in bands if freq_hz > 3000)


def test_the_same_tone_needs_no_band_and_keeps_every_bit(voice):
    sound = in_room(voice)
    house = house_voice_of([measures_of(sound)])
    out, result = processed(sound, step_for(house))
    assert result.points[0].report["apart_before_db"] < 0.6
    assert np.array_equal(out, sound) == (not result.points[0].facts["bands"])


def test_strength_takes_a_part_away(voice):
    house = house_voice_of([measures_of(in_room(voice))])
    other = in_room(through(voice, MICROPHONES["boxy"]))
    whole, half = (processed(other, step_for(house, strength_percent=s))[1] for s in (100.0, 50.0))
    figures = [r.points[0].report["apart_before_db"] for r in (whole, half)]
    assert figures[1] == pytest.approx(figures[0] / 2, rel=0.02)


def test_a_passage_equals_the_run(voice):
    house = house_voice_of([measures_of(in_room(voice))])
    other, step = in_room(through(voice, MICROPHONES["thin"])), step_for(house)
    whole, result = processed(other, step)
    passage = render_passage(
        ArraySource(other, RATE), (step,), {0: result.points[0].facts}, Span(5, 8)
    )
    assert np.abs(passage.after - whole[:, 5 * RATE : 8 * RATE]).max() < 1e-5


def test_a_gain_is_no_difference_of_tone(voice):
    house = house_voice_of([measures_of(in_room(voice))])
    softer = distance_from(measures_of(0.25 * in_room(voice)), house)
    assert softer.tone_db == pytest.approx(0, abs=0.01)
    assert softer.voice_level_db == pytest.approx(-12.04, abs=0.1)


def test_where_there_is_no_voice_there_is_no_house_voice(voice):
    quiet = measures_of(noise(-60, 3))
    with pytest.raises(BadInput, match="at least one measured recording with a voice"):
        house_voice_of([quiet])
    house = house_voice_of([measures_of(in_room(voice)), quiet])
    assert distance_from(quiet, house) is None
    out, result = processed(noise(-60, 3), step_for(house))
    assert np.array_equal(out, noise(-60, 3))
    assert "too little of the voice" in result.points[0].report["note"]


def test_fitted_bands_are_what_was_wanted():
    """A curve that is made of three bands itself comes back as such."""
    freqs_hz = np.array(TONE_HZ)
    may_boost, weights = np.ones(len(freqs_hz), bool), np.ones(len(freqs_hz))

    true = [FittedBand("bell", 400.0, 1.0, -5.0), FittedBand("high_shelf", 5000.0, 0.7, 4.0)]
    wanted = response_db(true, freqs_hz)
    bands = fit_bands(freqs_hz, wanted, weights, may_boost)
    left = wanted - response_db(bands, freqs_hz)
    assert np.abs(left - left.mean()).mean() < 0.5
    assert fit_bands(freqs_hz, np.zeros(len(freqs_hz)), weights, may_boost) == ()
    assert fit_bands(freqs_hz, wanted, 0 * weights, may_boost) == ()
