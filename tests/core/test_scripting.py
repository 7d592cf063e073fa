"""The front door for scripts; its example is run as it stands."""

from __future__ import annotations

import doctest

import numpy as np
import pytest
import soundfile

import zesty_core as zv
from tests.made_sound import RATE, STARTER, noise, spoken, write
from zesty_core import scripting
from zesty_core.foundation.errors import BadInput, BadRecipe


def test_the_example_is_true():
    failed, tried = doctest.testmod(scripting)
    assert (failed, tried > 5) == (0, True)


def voice(channels=1):
    return (spoken(6, channels=channels) + noise(-60, 6, channels=channels)).astype(np.float32)


LOUDER = zv.Recipe.of("Louder", ("gain", {"gain_db": 3.0}))


@pytest.mark.parametrize("shape", [(288_000,), (1, 288_000), (2, 288_000)])
@pytest.mark.parametrize("kind", [np.float32, np.float64])
def test_arrays_come_back_in_the_shape_they_had(shape, kind):
    sound = np.broadcast_to(voice()[0], shape).astype(kind)
    made = zv.process(sound, LOUDER, RATE)
    assert made.samples.shape == shape
    assert made.samples == pytest.approx(sound * 10 ** (3 / 20), rel=1e-5)
    assert made.result.after.sample_peak_dbfs == pytest.approx(
        made.result.before.sample_peak_dbfs + 3, abs=0.01
    )


def test_a_file_a_name_and_a_document_do_as_well(tmp_path):
    path = write(tmp_path / "take.wav", voice())
    by_name = zv.process(path, "Close-microphone narration", room_tone=(0.0, 0.3))
    assert by_name.samples.shape == (1, 6 * RATE)
    assert by_name.result.room_tone_source == "marked"
    assert zv.process(str(path), STARTER).samples.shape == (1, 6 * RATE)
    assert zv.measure(path).duration_s == pytest.approx(6)


@pytest.mark.parametrize("kind", ["array", "file"])
def test_room_tone_may_be_another_sound(tmp_path, kind):
    tone = noise(-60, 2, seed=3)
    given = tone[0] if kind == "array" else write(tmp_path / "room.wav", tone)
    recipe = zv.Recipe.of("Calm", ("noise_reduction", {"depth_db": 12.0}))
    made = zv.process(voice(), recipe, RATE, room_tone=given)
    assert made.result.room_tone_source == "other recording"


@pytest.mark.parametrize("target", [None, "Podcast, mono"])
def test_a_delivery_meets_its_target(tmp_path, target):
    out = tmp_path / "done.mp3"
    made = zv.deliver(voice(), out, LOUDER, target, RATE, tags={"title": "Tides"})
    assert soundfile.info(out).duration == pytest.approx(6, abs=0.1)
    assert not made.is_missed
    assert bool(made.rules) == bool(target)


@pytest.mark.parametrize(
    ("call", "error", "words"),
    [
        (lambda: zv.measure(np.zeros(100)), BadInput, "needs its sampling rate"),
        (lambda: zv.measure(np.zeros((3, 100)), RATE), BadInput, "one or two channels"),
        (lambda: zv.measure(np.zeros(0), RATE), BadInput, "shape"),
        (lambda: zv.measure(np.full(100, np.nan), RATE), BadInput, "not finite"),
        (lambda: zv.load_recipe("nowhere"), BadRecipe, "Kitchen-table podcast"),
        (lambda: zv.load_target("nowhere"), BadInput, "Podcast, stereo"),
        (lambda: zv.Recipe.of("x", ("gain", {"gain": 1})), BadInput, "gain"),
        (lambda: zv.deliver(voice(), "a.xyz", LOUDER, None, RATE), BadInput, "xyz|ending"),
    ],
)
def test_faults_are_named(call, error, words):
    with pytest.raises(error, match=words):
        call()
