"""Noise reduction: what it takes, what it leaves, and what it says when it cannot work."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.signal import stft
from scipy.special import exp1

from tests.made_sound import RATE, level_db, noise, spoken
from zesty_core.chain.recipe import ChainStep
from zesty_core.chain.runner import run_chain
from zesty_core.dsp import noise_model
from zesty_core.dsp.noise_model import learn_noise
from zesty_core.dsp.spectral import Shaping, SpectralProcessor
from zesty_core.dsp.voice_gain import lsa_excess
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import ArraySource, Span
from zesty_core.steps.noise_reduction import DepthPoint, NoiseReduction


def reduced(sound, step=None, rate=RATE, room_tone=None):
    out = []
    chain = (ChainStep(step or NoiseReduction()),)
    result = run_chain(ArraySource(sound, rate), chain, out.append, room_tone=room_tone)
    return np.concatenate(out, axis=1), result


def take(hiss_dbfs=-50.0, seed=2, rate=RATE, channels=1):
    """3 s of room tone, then speech over the same hiss."""
    voice = np.concatenate(
        [np.zeros((channels, 3 * rate), np.float32), spoken(8, rate, channels=channels)], axis=1
    )
    return voice + noise(hiss_dbfs, 11, rate, seed, channels)[:, : voice.shape[1]], voice


@pytest.mark.parametrize("v", [1e-4, 0.01, 0.3, 1.0, 4.0, 20.0, 90.0])
def test_gain_is_the_log_spectral_amplitude_gain(v):
    """Ephraim & Malah 1985, eq. 20: exp(E1(v) / 2); E1 from SciPy."""
    expected = v * np.exp(exp1(v))
    got = v + float(lsa_excess(np.float32(v)))
    assert 10 * np.log10(got / expected) == pytest.approx(0.0, abs=0.001)


@pytest.mark.parametrize("rate", [8_000, 16_000, 22_050, 44_100, 48_000, 96_000])
@pytest.mark.parametrize("length", [1, 300, 50_000])
def test_unit_gain_gives_the_sound_back(rate, length):
    sound = noise(-20, 1.1, rate)[:, :length]
    rule = SpectralProcessor(rate, 1, lambda power, _: Shaping(np.ones_like(power)), 10, 10)
    out = np.concatenate(
        [rule.push(sound[:, :100]), rule.push(sound[:, 100:]), rule.finish()], axis=1
    )
    assert out.shape == sound.shape
    assert np.abs(out - sound).max() < 1e-6


@pytest.mark.parametrize("depth_db", [6.0, 12.0, 20.0])
def test_pauses_go_down_by_the_depth(depth_db):
    sound, _ = take()
    out, _ = reduced(sound, NoiseReduction(depth_db=depth_db))
    pause = slice(RATE // 2, 5 * RATE // 2)
    change = level_db(out[:, pause]) - level_db(sound[:, pause])
    assert change == pytest.approx(-depth_db, abs=0.5)


@pytest.mark.parametrize("rate", [16_000, 48_000])
def test_rumble_goes_down_by_the_depth_too(rate):
    """Most of a room's energy may lie below the voice, where it comes and goes slowly."""
    hiss = noise(-20, 40, rate)[0]
    freq_hz = np.fft.rfftfreq(len(hiss), 1 / rate)
    rumble = np.fft.irfft(np.fft.rfft(hiss) / np.maximum(freq_hz, 20.0), len(hiss))
    rumble *= 10 ** (-50 / 20) / rumble.std()
    sound = rumble.astype(np.float32)[None]
    out, _ = reduced(sound, NoiseReduction(depth_db=18), rate, RoomTone(spans=(Span(0.5, 2.5),)))
    assert level_db(out) - level_db(sound) == pytest.approx(-18, abs=0.5)


def test_the_voice_keeps_its_level_and_comes_closer_to_the_clean_one():
    sound, voice = take(-45.0)
    out, result = reduced(sound)
    assert result.after.voice_level_dbfs == pytest.approx(result.before.voice_level_dbfs, abs=0.5)

    def distortion(x):
        return level_db(x[:, 3 * RATE :] - voice[:, 3 * RATE :])

    assert distortion(out) < distortion(sound) - 4


def test_depth_curve_reaches_each_frequency():
    sound, _ = take()
    curve = (DepthPoint(freq_hz=500, depth_db=0), DepthPoint(freq_hz=4000, depth_db=18))
    out, _ = reduced(sound, NoiseReduction(depth_curve=curve))
    pause = slice(RATE // 2, 5 * RATE // 2)
    before, after = (np.abs(np.fft.rfft(x[0, pause])) ** 2 for x in (sound, out))
    freqs = np.fft.rfftfreq(2 * RATE, 1 / RATE)
    for low, high, expected in ((50, 400, 0.0), (6000, 12_000, -18.0)):
        band = (freqs >= low) & (freqs < high)
        change = 10 * np.log10(after[band].sum() / before[band].sum())
        assert change == pytest.approx(expected, abs=1.0)


def test_several_passes_share_the_depth():
    sound, _ = take()
    out, _ = reduced(sound, NoiseReduction(depth_db=12, passes=3))
    pause = slice(RATE // 2, 5 * RATE // 2)
    assert level_db(out[:, pause]) - level_db(sound[:, pause]) == pytest.approx(-12, abs=1.0)


def test_drifting_noise_is_followed():
    sound, _ = take()
    ramp = np.interp(np.arange(sound.shape[1]), [3 * RATE, 8 * RATE], [0, 6])
    drifting = (noise(-50, 11) * 10 ** (ramp / 20) + take()[1]).astype(np.float32)
    tone = RoomTone(spans=(Span(0.5, 2.5),))
    end = slice(-RATE // 2, None)  # the made-up speech pauses there
    quiet = level_db(drifting[:, end])
    followed, _ = reduced(drifting, NoiseReduction(track_noise=True), room_tone=tone)
    fixed, _ = reduced(drifting, NoiseReduction(), room_tone=tone)
    assert level_db(followed[:, end]) - quiet <= level_db(fixed[:, end]) - quiet + 0.1


def learned_db(tone):
    return 10 * np.log10(learn_noise(tone, RATE).power.sum())


@pytest.mark.parametrize(
    ("first", "last", "level"), [(30_000, 30_050, 0.5), (30_000, 50_000, 0.02)]
)
def test_a_click_or_a_breath_in_the_room_tone_changes_little(first, last, level):
    tone = noise(-50, 2)
    disturbed = tone.copy()
    disturbed[0, first:last] += level * noise(0, 2)[0, first:last]
    assert learned_db(disturbed) == pytest.approx(learned_db(tone), abs=0.3)


def wandering(level_db, seed, swing_db=4.0, duration_s=6):
    """Noise that comes and goes within tenths of a second, as water does."""
    points = np.random.default_rng(seed).standard_normal(10 * duration_s + 1) * swing_db
    times = np.linspace(0, duration_s * RATE, len(points))
    swing = np.interp(np.arange(duration_s * RATE), times, points)
    return (noise(level_db, duration_s) * 10 ** (swing / 20)).astype(np.float32)


@pytest.mark.parametrize(("track_noise", "least_db"), [(False, 11), (True, 6)])
def test_a_restless_room_is_learned_whole_and_goes_down(track_noise, least_db):
    room = wandering(-40, 1)
    power = np.mean(np.square(room[:, : 3 * RATE], dtype=np.float64))
    steady = 10 * np.log10(np.mean(np.square(noise(-40, 3), dtype=np.float64)))
    # Its loud moments belong to it: the mean is learned, not the quiet between them.
    expected = learned_db(noise(-40, 3)) + 10 * np.log10(power) - steady
    assert learned_db(room[:, : 3 * RATE]) == pytest.approx(expected, abs=0.4)
    step = NoiseReduction(depth_db=20, track_noise=track_noise)
    out, _ = reduced(room, step, room_tone=RoomTone(spans=(Span(0, 3),)))
    later = slice(3 * RATE, None)
    assert level_db(out[:, later]) - level_db(room[:, later]) < -least_db


@pytest.mark.parametrize(
    ("tone", "at_least", "at_most"),
    [
        (noise(-50, 3), 1.0, 1.001),
        (wandering(-50, 1, swing_db=2.0), 1.02, 1.3),
        (wandering(-50, 1, swing_db=5.0), 1.25, 10**0.4),
    ],
    ids=["steady", "a little", "restless"],
)
def test_a_restless_room_is_taken_for_louder_than_its_mean(tone, at_least, at_most):
    learned = learn_noise(tone, RATE)
    freq_hz = np.linspace(0, RATE / 2, len(learned.power))
    # Not where a voice's fundamental lies.
    assert np.all(learned.swell[freq_hz <= 300] == 1.0)
    above = learned.swell[freq_hz >= 1200]
    assert above.min() >= at_least - 1e-6
    assert above.max() <= at_most + 1e-6


def test_less_is_left_beside_words_in_a_restless_room(monkeypatch):
    """How far short-time spectra lie over those of the voice alone, where that is heard."""
    voice = np.concatenate([np.zeros((1, 3 * RATE), np.float32), spoken(8, RATE)], axis=1)
    sound = voice + wandering(-45, 1, duration_s=11)
    tone = RoomTone(spans=(Span(0, 3),))

    def left_db():
        out, _ = reduced(sound, NoiseReduction(method="statistics", depth_db=30), room_tone=tone)
        heard, clean = (
            10 * np.log10(np.abs(stft(x[0, 3 * RATE :], RATE, nperseg=1024)[2]) ** 2 + 1e-12)
            for x in (out, voice)
        )
        return np.mean(np.maximum(heard - np.maximum(clean, -90), 0.0))

    now = left_db()
    monkeypatch.setattr(noise_model, "_SWELL_AT_MOST", 1.0)
    assert now < 0.8 * left_db()


def test_several_spans_teach_as_one():
    sound, _ = take()
    sound[0, RATE + 5_000 : RATE + 9_000] += 0.05  # a knock between the spans
    tone = RoomTone(spans=(Span(0.2, 0.9), Span(1.5, 2.8)))
    out, result = reduced(sound, NoiseReduction(depth_db=12), room_tone=tone)
    assert result.room_tone == Span(1.5, 2.8)  # the noise floor is read from the longest
    assert level_db(out[0, : RATE // 2]) - level_db(sound[0, : RATE // 2]) == pytest.approx(
        -12, abs=0.5
    )


@pytest.mark.parametrize("offset", [0.0, -0.05])
def test_the_report_tells_what_was_taken_by_band(offset):
    sound, _ = take()
    sound = sound + np.float32(offset)
    curve = (DepthPoint(freq_hz=700, depth_db=4), DepthPoint(freq_hz=5000, depth_db=16))
    report = reduced(sound, NoiseReduction(depth_curve=curve))[1].points[0].report
    bands = {b["freq_hz"]: b["change_db"] for b in report["room_tone_change_by_band"]}
    assert bands[250] == pytest.approx(-4, abs=0.6)
    assert bands[8000] == pytest.approx(-16, abs=0.6)
    assert -16 < report["room_tone_change_db"] < -4
    assert report["warble"] == pytest.approx(1.0, abs=0.1)


def test_a_very_short_and_a_very_loud_room_tone_do_no_harm():
    sound, voice = take()
    brief, _ = reduced(sound, room_tone=RoomTone(spans=(Span(1.0, 1.06),)))
    assert level_db(brief - voice) < level_db(sound - voice) - 4
    loud = RoomTone(samples=noise(-10, 1), sample_rate_hz=RATE)
    drowned, _ = reduced(sound, NoiseReduction(depth_db=12), room_tone=loud)
    assert np.isfinite(drowned).all()
    assert level_db(sound) - 12 < level_db(drowned) < level_db(sound)


def test_hum_goes_down_with_the_rest():
    sound, _ = take(-60)
    t = np.arange(sound.shape[1]) / RATE
    hum = sum(0.004 / k * np.sin(2 * np.pi * 50 * k * t) for k in (1, 2, 3))
    _, result = reduced((sound + hum).astype(np.float32), NoiseReduction(depth_db=18))
    assert result.before.hum.level_dbfs == pytest.approx(-50, abs=1)
    after = result.after.hum
    assert after is None or after.level_dbfs < result.before.hum.level_dbfs - 15


@pytest.mark.parametrize("other_rate", [16_000, 44_100, 96_000])
def test_room_tone_of_another_recording_and_rate(other_rate):
    sound, _ = take()
    # White noise up to 8 kHz has the same density there at any rate.
    level = -50 + 10 * np.log10(other_rate / RATE)
    tone = RoomTone(samples=noise(level, 2, other_rate, seed=9), sample_rate_hz=other_rate)
    out, result = reduced(sound, room_tone=tone)
    assert result.room_tone_source == "other recording"
    pause = slice(RATE // 2, 5 * RATE // 2)
    low = np.fft.rfftfreq(2 * RATE, 1 / RATE) < 6000
    before, after = (np.abs(np.fft.rfft(x[0, pause]))[low] for x in (sound, out))
    assert 20 * np.log10(np.linalg.norm(after) / np.linalg.norm(before)) < -10


UNCHANGED = {
    "silence": (np.zeros((1, 2 * RATE), np.float32), None),
    "no quiet stretch": (noise(-30, 3), None),
    "digital silence as room tone": (
        np.concatenate([np.zeros((1, RATE), np.float32), spoken(3)], axis=1),
        RoomTone(spans=(Span(0.0, 0.9),)),
    ),
}


@pytest.mark.parametrize("name", UNCHANGED)
def test_where_nothing_can_be_learned_the_sound_passes_and_it_says_so(name):
    sound, tone = UNCHANGED[name]
    out, result = reduced(sound, room_tone=tone)
    assert np.array_equal(out, sound)
    assert "room tone" in result.notes[0]


def test_stereo_shares_one_gain():
    left, _ = take()
    sound = np.concatenate([left, left * np.float32(0.5)])
    out, _ = reduced(sound)
    assert np.abs(out[1] - out[0] * 0.5).max() < 1e-6
