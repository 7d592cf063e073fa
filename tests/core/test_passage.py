"""A passage sounds as the same span of the whole, for every kind of step."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import pytest

from tests.core.test_runner import FULL
from tests.made_sound import RATE, RECORDINGS, level_db, noise
from zesty_core.audio.reader import AudioFile
from zesty_core.chain.recipe import ChainStep, chain_from_json
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.settings import number
from zesty_core.foundation.signal import ArraySource, SignalInfo, Span
from zesty_core.live.passage import PassageCache, render_passage
from zesty_core.steps.base import Step
from zesty_core.steps.registry import STEP_TYPES

SPAN = Span(9.137, 14.5)


@pytest.fixture(scope="module")
def source():
    file = AudioFile(RECORDINGS / "letters-31-warden.wav")
    return ArraySource(file.read(0, 20 * RATE), RATE)


def settled(source, steps):
    chain, out = chain_from_json(steps), []
    result = run_chain(source, chain, out.append)
    facts = {i: p.facts for i, p in enumerate(result.points)}
    return chain, facts, np.concatenate(out, axis=1)


EXTRA = [
    {"type": "noise_reduction", "params": {"track_noise": True, "passes": 2}},
    {"type": "gate", "params": {"mode": "gate", "threshold_db": -40, "open_early_ms": 50}},
    {"type": "compressor", "params": {"auto_release": True, "threshold_db": -30}},
    {"type": "limiter", "params": {"ceiling_dbtp": -20, "release_ms": 200}},
    {"type": "ambience", "params": {"decay_s": 1.5, "mix": 0.4}},
]


@pytest.mark.parametrize("step", [*FULL, *EXTRA], ids=lambda s: s["type"])
def test_a_passage_equals_the_same_span_of_the_whole(source, step):
    chain, facts, whole = settled(source, [step])
    passage = render_passage(source, chain, facts, SPAN)
    first, last = SPAN.samples(RATE)
    expected = whole[:, first:last]
    assert np.array_equal(passage.before, source.read(first, last))
    assert level_db(passage.after - expected) < level_db(expected) - 60


@dataclass(frozen=True, kw_only=True)
class Framed(Step):
    """Turns every second frame over: any other phase of its frames is heard at once."""

    type = "framed"
    label = "Framed"
    summary = "for this test"
    share: float = number("Frame", unit="s", default=0.02, low=0.001, high=1.0, help="Its length.")

    def frame_samples(self, info):
        return 2 * round(self.share * info.sample_rate_hz)

    def start(self, info, facts):
        return _Frames(round(self.share * info.sample_rate_hz), info.channels)

    def _sentence(self):
        return "Turns frames over."


class _Frames:
    def __init__(self, length, channels):
        self._length, self._channels, self._at = length, channels, 0

    def push(self, block):
        frames = (self._at + np.arange(block.shape[1])) // self._length
        self._at += block.shape[1]
        return block * np.where(frames % 2, -1, 1).astype(np.float32)

    def finish(self):
        return np.zeros((self._channels, 0), np.float32)

    def report(self):
        return {}


@pytest.mark.parametrize("rate", [44_100, 48_000])
@pytest.mark.parametrize("frame_s", [0.02, 0.0237, 0.1])
def test_frames_of_any_length_fall_where_they_do_in_the_whole(rate, frame_s):
    sound = ArraySource(noise(-20, 20, rate), rate)
    chain = (
        ChainStep(Framed(share=frame_s)),
        *chain_from_json([{"type": "compressor", "params": {"threshold_db": -30}}]),
    )
    out = []
    result = run_chain(sound, chain, out.append)
    facts = {i: p.facts for i, p in enumerate(result.points)}
    first, last = SPAN.samples(rate)
    expected = np.concatenate(out, axis=1)[:, first:last]
    passage = render_passage(sound, chain, facts, SPAN)
    assert level_db(passage.after - expected) < level_db(expected) - 60


@pytest.mark.parametrize("kind", STEP_TYPES)
@pytest.mark.parametrize("rate", [8_000, 44_100, 96_000])
def test_every_step_knows_its_frames(kind, rate):
    frame = STEP_TYPES[kind]().frame_samples(SignalInfo(rate, 2, rate))
    assert isinstance(frame, int)
    assert 1 <= frame <= rate


def test_the_whole_chain_too_and_the_cache_changes_nothing(source):
    chain, facts, whole = settled(source, FULL)
    cache = PassageCache()
    first, last = SPAN.samples(RATE)
    expected = whole[:, first:last]
    fresh = render_passage(source, chain, facts, SPAN, cache)
    again = render_passage(source, chain, facts, SPAN, cache)
    assert level_db(fresh.after - expected) < level_db(expected) - 60
    assert np.array_equal(fresh.after, again.after)
    assert set(fresh.stages) == set(range(len(FULL)))


def test_a_changed_setting_is_heard_and_earlier_steps_are_kept(source):
    steps = [{"type": "noise_reduction"}, {"type": "gain", "params": {"gain_db": -2}}]
    chain, facts, _ = settled(source, steps)
    cache = PassageCache()
    a = render_passage(source, chain, facts, SPAN, cache)
    steps[1]["params"]["gain_db"] = -8
    b = render_passage(source, chain_from_json(steps), facts, SPAN, cache)
    assert np.array_equal(a.stages[0].sound, b.stages[0].sound)
    assert level_db(b.after) - level_db(a.after) == pytest.approx(-6, abs=0.01)


@pytest.mark.parametrize(
    ("span", "facts", "message"),
    [
        (Span(18, 25), {0: {}}, "passage: 18 to 25 s must lie within 0 and 20.000 s"),
        (Span(3, 4), {}, "nothing is settled yet for limiter"),
    ],
)
def test_impossible_passages_are_refused(source, span, facts, message):
    with pytest.raises(BadInput, match=message):
        render_passage(source, chain_from_json([{"type": "limiter"}]), facts, span)
