"""A passage while its chain is set: exact once settled, close before; levels and pictures true."""

from __future__ import annotations

import json

import numpy as np
import pytest

from tests.core.test_runner import FULL
from tests.made_sound import RATE, RECORDINGS, level_db, noise, sine, spoken
from zesty_core.audio.reader import AudioFile
from zesty_core.chain.recipe import chain_from_json
from zesty_core.chain.runner import run_chain
from zesty_core.dsp.noise_model import learn_noise
from zesty_core.foundation.signal import ArraySource, SignalInfo, Span
from zesty_core.live.chain import Anchor, LiveChain
from zesty_core.measures.proposed_passage import proposed_passage
from zesty_core.measures.resonances import resonances
from zesty_core.measures.speech_events import Phrase
from zesty_core.measures.stream import measure
from zesty_core.steps import noise_reduction
from zesty_core.steps.pictures import PicturedPassage

SPAN = Span(9.137, 18.2)
FOLLOWING = [
    {"type": "normalize", "params": {"target_db": -3}},
    {"type": "noise_reduction"},
    {"type": "gate", "params": {"follow_voice": True, "threshold_db": -24}},
    {"type": "de_esser", "params": {"follow_voice": True}},
    {"type": "compressor", "params": {"follow_voice": True, "threshold_db": -5, "ratio": 3}},
    {"type": "limiter"},
    {"type": "loudness", "params": {"measure": "lufs", "target": -19}},
]


@pytest.fixture(scope="module")
def live():
    return LiveChain(AudioFile(RECORDINGS / "letters-31-warden.wav"))


def whole_run(live, steps):
    out = []
    result = run_chain(live.source, chain_from_json(steps), out.append)
    return result, np.concatenate(out, axis=1)


@pytest.mark.parametrize("steps", [FULL, FOLLOWING], ids=["absolute", "following"])
def test_settled_it_is_the_run_and_before_that_it_is_close(live, steps):
    chain = chain_from_json(steps)
    result, whole = whole_run(live, steps)
    first, last = SPAN.samples(RATE)
    expected = whole[:, first:last]
    guessed = live.hear(chain, SPAN)
    assert not guessed.is_settled
    # One passage does not tell what is loudest elsewhere.
    assert level_db(guessed.passage.after) == pytest.approx(level_db(expected), abs=4)
    assert_near(guessed.points, result.points, 4)
    settled = live.hear(chain, SPAN, {i: p.facts for i, p in enumerate(result.points)})
    assert settled.is_settled
    assert level_db(settled.passage.after - expected) < level_db(expected) - 60


def assert_near(guesses, known, most_db):
    for guess, point in zip(guesses, known, strict=True):
        for name in ("voice_level_dbfs", "noise_floor_dbfs", "true_peak_dbtp"):
            guessed, true = getattr(guess.levels, name), getattr(point.levels, name)
            assert guessed == pytest.approx(true, abs=most_db), (guess.type, name)


def turned(steps, at, **params):
    old = steps[at]
    new = {**old, "params": {**old.get("params", {}), **params}}
    return [*steps[:at], new, *steps[at + 1 :]]


@pytest.mark.parametrize(
    ("params", "again"),
    [({"depth_db": 11.0}, 0), ({"margin_db": 2.0}, 0), ({"passes": 2, "method": "statistics"}, 2)],
)
def test_noise_is_learned_again_only_where_that_can_differ(live, monkeypatch, params, again):
    live.hear(chain_from_json(FOLLOWING), SPAN)
    learned = []

    def learning(*arguments):
        learned.append(1)
        return learn_noise(*arguments)

    monkeypatch.setattr(noise_reduction, "learn_noise", learning)
    heard = live.hear(chain_from_json(turned(FOLLOWING, 1, **params)), SPAN)
    assert len(learned) == again
    assert level_db(heard.passage.after) > -60


CHANGED = [(0, "target_db", -9.0), (1, "depth_db", 10.0), (4, "ratio", 5.0), (6, "target", -16.0)]


@pytest.mark.parametrize(("at", "name", "value"), CHANGED)
def test_a_chain_near_one_that_was_settled_is_estimated_from_it(live, at, name, value):
    result, _ = whole_run(live, FOLLOWING)
    facts = {i: p.facts for i, p in enumerate(result.points)}
    anchor = Anchor(chain_from_json(FOLLOWING), facts, [p.levels for p in result.points])
    steps = json.loads(json.dumps(FOLLOWING))
    steps[at].setdefault("params", {})[name] = value
    known, whole = whole_run(live, steps)
    chain = chain_from_json(steps)
    here = {i: f for i, f in facts.items() if i < at}
    heard = live.hear(chain, SPAN, here, anchor)
    assert_near(heard.points, known.points, 1.2)
    first, last = SPAN.samples(RATE)
    assert level_db(heard.passage.after) == pytest.approx(level_db(whole[:, first:last]), abs=1.0)


def test_a_whole_short_recording_as_passage_is_estimated_exactly():
    sound = np.pad(spoken(8), ((0, 0), (2 * RATE, 0))) + noise(-55, 10)
    live = LiveChain(ArraySource(sound, RATE))
    steps = FOLLOWING[:1] + FOLLOWING[4:]
    result, whole = whole_run(live, steps)
    heard = live.hear(chain_from_json(steps), Span(0, 10))
    assert level_db(heard.passage.after - whole) < level_db(whole) - 50
    last = heard.points[-1].levels
    assert last.voice_level_dbfs == pytest.approx(result.after.voice_level_dbfs, abs=0.05)


def test_switched_off_steps_repeat_the_levels_before_them(live):
    steps = [{"type": "gain", "params": {"gain_db": -6}}, {"type": "gate", "enabled": False}]
    first, second = live.hear(chain_from_json(steps), SPAN).points
    assert second.levels == first.levels
    was = live.levels_as_recorded()
    assert first.levels.voice_level_dbfs == pytest.approx(was.voice_level_dbfs - 6, abs=0.01)
    assert first.levels.noise_floor_dbfs == pytest.approx(was.noise_floor_dbfs - 6, abs=0.01)


def picture(steps, index, sound):
    live = LiveChain(ArraySource(sound, RATE))
    chain = chain_from_json(steps)
    heard = live.hear(chain, Span(0, sound.shape[1] / RATE))
    stage, point = heard.passage.stages[index], heard.points[index]
    tones = point.tone_before, point.tone_after
    passage = PicturedPassage(stage.facts, heard.passage.before, stage.sound, *tones, RATE)
    made = chain[index].step.picture(passage)
    json.dumps(made, allow_nan=False)
    return made


def test_spectra_and_response_agree_with_each_other():
    bands = [{"type": "bell", "freq_hz": 1000, "gain_db": -9, "q": 1}]
    made = picture([{"type": "eq", "params": {"bands": bands}}], 0, noise(-20, 10))
    freqs = np.asarray(made["spectrum"]["freqs_hz"])
    change = np.subtract(made["spectrum"]["after"], made["spectrum"]["before"])
    audible = freqs > 60
    assert change[audible] == pytest.approx(np.asarray(made["response_db"])[audible], abs=0.5)
    assert min(made["response_db"]) == pytest.approx(-9, abs=0.05)


CURVED = [
    (
        "compressor",
        {"threshold_db": -30, "ratio": 4, "knee_db": 12, "makeup_db": 3, "quiet_guard_db": -90},
    ),
    ("compressor", {"threshold_db": -20, "ratio": 2, "makeup_db": 0, "mix": 0.5}),
    (
        "gate",
        {"mode": "gate", "threshold_db": -40, "floor_db": -20, "hold_ms": 0, "follow_voice": False},
    ),
    (
        "gate",
        {"mode": "expand", "threshold_db": -30, "ratio": 2, "floor_db": -40, "follow_voice": False},
    ),
    ("limiter", {"ceiling_dbtp": -12, "input_gain_db": 6}),
    ("saturation", {"drive_db": 12, "mix": 1}),
]


@pytest.mark.parametrize(("type_", "params"), CURVED)
@pytest.mark.parametrize("level_dbfs", [-50, -33, -15, -6])
def test_the_curve_drawn_is_the_curve_heard(type_, params, level_dbfs):
    """A steady tone comes out at the level the curve tells."""
    tone = sine(level_dbfs, 4, 997)
    if type_ == "compressor":  # whose detector sees every sample: a square is as loud throughout
        tone = np.sign(tone) * np.float32(10 ** (level_dbfs / 20))
    step = chain_from_json([{"type": type_, "params": params}])[0].step
    info = SignalInfo(RATE, 1, tone.shape[1])
    facts = {
        "reference_db": 0.0,
        "centres": [],
        "makeup_db": params.get("makeup_db", 0.0),
        "reference_dbfs": -12.0,
    }
    processor = step.start(info, facts)
    out = np.concatenate([processor.push(tone), processor.finish()], axis=1)[:, 2 * RATE : 3 * RATE]
    (drawn,) = step.curve_dbfs(facts, np.array([float(level_dbfs)]))
    # Gates look at the average of a tone, 3 dB under its peak, and saturation adds harmonics.
    if type_ == "gate":
        rms = step.curve_dbfs(facts, np.array([level_dbfs - 3.01]))[0] + 3.01
        drawn = rms
    heard = 20 * np.log10(np.abs(out).max())
    assert heard == pytest.approx(drawn, abs=0.3)


def test_work_over_time_and_levels_show_what_was_done():
    sound = np.concatenate([noise(-50, 5), noise(-15, 5, seed=2)], axis=1)
    gain = picture([{"type": "gain", "params": {"gain_db": -4}}], 0, sound)
    assert gain["work"][0] == pytest.approx([-4.0] * len(gain["work"][0]), abs=0.02)
    for levels, moved in ((gain["levels"]["before"], 0), (gain["levels"]["after"], -4)):
        assert sum(levels) == pytest.approx(1, abs=0.01)
        peaks = [i + gain["levels"]["lowest_dbfs"] for i in np.argsort(levels)[-4:]]
        assert min(abs(p - (-15 + moved)) for p in peaks) <= 1
    gate = picture(
        [{"type": "gate", "params": {"mode": "gate", "threshold_db": -30, "floor_db": -12}}],
        0,
        sound,
    )
    work = gate["work"][0]
    assert work[30] == pytest.approx(-12, abs=0.3)
    assert work[-30] == pytest.approx(0, abs=0.1)


def test_only_the_band_of_a_de_esser_and_every_band_of_a_multiband_are_watched():
    sound = sine(-20, 10, 300) + sine(-20, 10, 7000)
    params = {"low_hz": 5000, "high_hz": 9000, "threshold_db": -40, "follow_voice": False}
    made = picture([{"type": "de_esser", "params": params}], 0, sound)
    assert np.median(made["work"][0]) < -3
    made = picture([{"type": "multiband"}], 0, sound)
    assert len(made["work"]) == len(made["curves"]) == len(made["band_levels"])


@pytest.mark.parametrize(
    ("step", "down_db"),
    [
        # 20 dB over the threshold at 4:1 (static curve of the compressor's source, eq. 4), less
        # what its time constants let go between the peaks of a tone.
        (
            {"type": "compressor", "params": {"threshold_db": -40, "ratio": 4, "makeup_db": 8}},
            -14.5,
        ),
        ({"type": "compressor", "params": {"threshold_db": 10, "makeup_db": 8}}, 0),
        ({"type": "limiter", "params": {"input_gain_db": 6, "ceiling_dbtp": 0}}, 0),
        ({"type": "limiter", "params": {"input_gain_db": 10, "ceiling_dbtp": -16}}, -6),
        ({"type": "multiband", "params": {"bands": [{"threshold_db": 10, "makeup_db": 5}] * 3}}, 0),
    ],
)
def test_what_a_step_turns_down_is_drawn_without_what_it_turns_up(step, down_db):
    work = picture([step], 0, sine(-20, 10, 1000))["work"]
    told = [v for v in work[len(work) // 2][20:] if v is not None]
    assert told == pytest.approx([down_db] * len(told), abs=1.0)


def test_bands_that_turn_nothing_down_are_drawn_so():
    """The crossovers turn the phase of what they split; drawn, that would look like work."""
    idle = [{"threshold_db": 20, "makeup_db": 0}] * 3
    work = picture([{"type": "multiband", "params": {"bands": idle}}], 0, spoken(8))["work"]
    told = np.array([v for band in work for v in band[5:] if v is not None])
    assert len(told) > 300
    assert np.abs(told).max() < 0.25


def test_decay_falls_by_sixty_db_in_the_time_it_says():
    made = picture([{"type": "ambience", "params": {"decay_s": 0.6, "mix": 0.5}}], 0, spoken(8))
    levels = np.asarray(made["decay"]["levels_db"])
    start = int(np.argmax(levels))
    fallen = np.flatnonzero(levels[start:] < -55)[0] * made["decay"]["bin_s"]
    assert fallen == pytest.approx(0.6, abs=0.15)


@pytest.mark.parametrize(("freq_hz", "gain_db"), [(180, 9), (900, 6), (3000, 6)])
def test_planted_resonances_stand_out_where_they_are(freq_hz, gain_db):
    source = ArraySource(noise(-20, 10), RATE)
    band = {"type": "bell", "freq_hz": freq_hz, "gain_db": gain_db, "q": 8}
    out = []
    run_chain(source, chain_from_json([{"type": "eq", "params": {"bands": [band]}}]), out.append)
    sound = np.concatenate(out, axis=1)
    found = resonances(measure([sound], SignalInfo(RATE, *sound.shape)).spectrum)
    assert [f.freq_hz for f in found] == pytest.approx([freq_hz], rel=0.05)
    assert 0.3 * gain_db < found[0].over_db <= gain_db
    assert resonances(measure([noise(-20, 10)], SignalInfo(RATE, 1, 10 * RATE)).spectrum) == []


QUIET, LOUD = Phrase(12, 15, -30.0), Phrase(15.6, 20, -18.0)


@pytest.mark.parametrize(
    ("phrases", "duration_s", "span"),
    [
        ([], 60, (0, 10)),
        ([], 3, (0, 3)),
        ([Phrase(1, 4, -20.0)], 4.5, (0, 4.5)),
        ([Phrase(1, 9, -20.0), QUIET, LOUD, Phrase(30, 39, -20.0)], 60, (11.6, 21.6)),
        ([Phrase(50, 59, -20.0)], 60, (49.6, 59.6)),
    ],
)
def test_the_proposed_passage_shows_most(phrases, duration_s, span):
    found = proposed_passage(phrases, duration_s)
    assert (found.start_s, found.end_s) == pytest.approx(span)
    assert proposed_passage(phrases, 0) is None
