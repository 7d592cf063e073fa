"""Where nobody pauses, the room is estimated from under the words."""

from __future__ import annotations

import functools
import itertools

import numpy as np
import pytest
from scipy.stats import chi2

from tests.made_sound import RATE, ROOT, level_db, noise, spoken, words
from zesty_core.audio.reader import AudioFile
from zesty_core.audio.resample import resampled
from zesty_core.chain.recipe import ChainStep
from zesty_core.chain.runner import run_chain
from zesty_core.dsp.noise_model import learn_noise
from zesty_core.dsp.noise_under_voice import _falls_by_chance, noise_under_voice
from zesty_core.dsp.spectral import OVERLAP, frame_spectra, hann, window_samples
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import ArraySource, Span
from zesty_core.live.chain import LiveChain
from zesty_core.measures.spectrum_points import curve_of_sound
from zesty_core.measures.stream import measure
from zesty_core.steps.gain import Gain
from zesty_core.steps.noise_reduction import NoiseReduction
from zesty_core.steps.pictures import PicturedPassage

VOICES = sorted((ROOT / "src" / "zesty_demo" / "voices").glob("*.flac"))
#: In whom nothing is found that could be room tone.
WARDEN = ROOT / "src" / "zesty_demo" / "voices" / "letters-warden.flac"
#: Of a voice this far over the room, how far the estimate may lie from the room.
MOST_DB = {5: 1.4, 10: 1.3, 20: 1.8, 30: 3.0}


@functools.cache
def unbroken(path, length_s=5.0):
    """A voice of which no pause is left longer than a tenth of a second."""
    file = AudioFile(path)
    sound = file.read(0, 40 * file.info.sample_rate_hz)
    voice = resampled(sound, file.info.sample_rate_hz, RATE)[0]
    hop, longest = RATE // 100, 10
    hops = voice[: len(voice) // hop * hop].reshape(-1, hop)
    quiet = np.square(hops).mean(axis=1) < 1e-4 * np.square(hops).mean()
    goes_on = np.convolve(quiet, np.ones(longest), "full")[: len(quiet)] == longest
    kept = hops[~goes_on].reshape(-1)[: round(length_s * RATE)]
    return (kept * np.float32(0.1 / kept.std()))[None]


def room(below_db, sound, kind="hiss", seed=5):
    """Noise that far under a sound."""
    made = noise(-20, sound.shape[1] / RATE, seed=seed)[:, : sound.shape[1]]
    if kind == "rumble":
        freq_hz = np.maximum(np.fft.rfftfreq(made.shape[1], 1 / RATE), 60)
        made = np.fft.irfft(np.fft.rfft(made[0]) / freq_hz**0.8, made.shape[1])[None]
    scale = sound.std() / made.std() * 10 ** (-below_db / 20)
    return (made * scale).astype(np.float32)


def power_of(sound):
    spectra = frame_spectra(np.ascontiguousarray(sound[0]), hann(window_samples(RATE)))
    return (np.abs(spectra) ** 2).astype(np.float32)


def told_of(sound):
    window = window_samples(RATE)
    return noise_under_voice(power_of(sound), window / OVERLAP / RATE, RATE / window)


def off_by_db(told, made):
    """How far each third of an octave from 100 Hz to 16 kHz lies over what it is."""
    true = power_of(made).mean(axis=0)
    edges = np.unique(np.round(100 * 2 ** (np.arange(0, 22) / 3) * window_samples(RATE) / RATE))
    bands = [slice(int(a), int(b)) for a, b in itertools.pairwise(edges)]
    return np.array([10 * np.log10(told[b].sum() / true[b].sum()) for b in bands])


def reduced(sound, room_tone=None, **settings):
    out = []
    chain = (ChainStep(NoiseReduction(**settings)),)
    result = run_chain(ArraySource(sound, RATE), chain, out.append, room_tone=room_tone)
    return np.concatenate(out, axis=1), result


def kept_db(out, voice):
    """Scale-invariant signal-to-distortion ratio (Le Roux et al. 2019)."""
    y, s = out[0].astype(np.float64), voice[0].astype(np.float64)
    s = s * (s @ y) / (s @ s)
    return 10 * np.log10(np.sum(s**2) / np.sum((y - s) ** 2))


@pytest.mark.parametrize("path", VOICES[:3], ids=lambda p: p.stem)
@pytest.mark.parametrize("kind", ["hiss", "rumble"])
@pytest.mark.parametrize("snr_db", MOST_DB)
def test_steady_noise_is_told_from_under_a_voice(path, kind, snr_db):
    voice = unbroken(path)
    made = room(snr_db, voice, kind)
    told = told_of(voice + made)
    off = off_by_db(told.power, made)
    assert np.sqrt(np.mean(off**2)) < MOST_DB[snr_db]


def test_steady_noise_alone_is_told_as_it_is():
    made = noise(-40, 6)
    told = told_of(made)
    assert np.abs(off_by_db(told.power, made)).max() < 0.4
    assert told.trust == 1.0


def crackling(sound, deviation_db=6.0):
    """Noise that is now louder, now softer, from one tenth of a second to the next."""
    tenths = -(-sound.shape[1] * 10 // RATE)
    gains_db = deviation_db * np.random.default_rng(2).standard_normal(tenths)
    gains = np.repeat(10 ** (gains_db / 20), RATE // 10)[: sound.shape[1]]
    return (sound * gains * np.sqrt(1 / np.mean(gains**2))).astype(np.float32)


@pytest.mark.parametrize("snr_db", [5, 10, 20])
def test_a_restless_room_is_not_trusted(snr_db):
    voice = unbroken(VOICES[0])
    steady = room(snr_db, voice)
    assert told_of(voice + steady).trust == 1.0
    assert told_of(voice + crackling(steady)).trust < 0.3


@pytest.mark.parametrize("share", [0.02, 0.03, 0.1])
def test_how_low_means_fall_by_chance(share):
    """Against SciPy's chi-square distribution."""
    values = np.array([25.0, 50.0])
    expected = chi2.ppf(share, 2 * values) / (2 * values)
    assert _falls_by_chance(share, values) == pytest.approx(expected, rel=1e-3)


@pytest.mark.parametrize("snr_db", [5, 10, 20, 30])
def test_who_never_pauses_is_helped_nearly_as_with_room_tone(snr_db):
    voice = unbroken(WARDEN)
    made = room(snr_db, voice)
    alone, result = reduced(voice + made)
    before, after = kept_db(voice + made, voice), kept_db(alone, voice)
    lead = np.concatenate([noise(level_db(made), 1.5, seed=9), voice + made], axis=1)
    marked, _ = reduced(lead, RoomTone(spans=(Span(0.05, 1.45),)))
    assert after > before + 1.5
    assert after > kept_db(marked[:, -voice.shape[1] :], voice) - 1.0
    assert result.room_tone_source == "none"
    assert "under the words" in result.notes[0]


@pytest.mark.parametrize("path", VOICES, ids=lambda p: p.stem)
def test_a_clean_voice_that_never_pauses_is_left_alone(path):
    voice = unbroken(path)
    out, _ = reduced(voice)
    assert kept_db(out, voice) > 35


@pytest.mark.parametrize("passes", [1, 3])
def test_in_several_passes_too(passes):
    voice = unbroken(VOICES[0])
    sound = voice + room(10, voice)
    out, _ = reduced(sound, passes=passes)
    assert kept_db(out, voice) > kept_db(sound, voice) + 3.0


@pytest.mark.parametrize("channels", [1, 2])
def test_a_passage_learns_what_the_run_does(channels):
    voice = unbroken(WARDEN)
    source = ArraySource(np.repeat(voice + room(15, voice), channels, axis=0), RATE)
    steps = (ChainStep(Gain(gain_db=6)), ChainStep(NoiseReduction()), ChainStep(NoiseReduction()))
    out = []
    result = run_chain(source, steps, out.append)
    heard = LiveChain(source).hear(steps, Span(1.0, 3.0))
    whole = np.concatenate(out, axis=1)[:, RATE : 3 * RATE]
    assert heard.points[1].report["note"] == result.points[1].report["note"]
    np.testing.assert_allclose(heard.passage.after, whole, atol=3e-5)


def test_the_noise_that_was_learned_is_drawn_where_there_is_no_room_tone():
    voice = unbroken(WARDEN)
    made = room(10, voice)
    steps = (ChainStep(NoiseReduction()),)
    heard = LiveChain(ArraySource(voice + made, RATE)).hear(steps, Span(1.0, 3.0))
    stage, point = heard.passage.stages[0], heard.points[0]
    tones = point.tone_before, point.tone_after
    passage = PicturedPassage(stage.facts, heard.passage.before, stage.sound, *tones, RATE)
    drawn = steps[0].step.picture(passage)["spectrum"]
    expected = curve_of_sound(made, RATE, np.array(drawn["freqs_hz"]))
    assert "tone_before" not in drawn
    freqs_hz, off_db = np.array(drawn["freqs_hz"]), np.subtract(drawn["noise_learned"], expected)
    assert np.abs(np.mean(off_db[freqs_hz > 500])) < 0.5
    assert np.abs(np.mean(off_db[(freqs_hz > 70) & (freqs_hz < 500)])) < 2.0


def test_long_pauses_are_believed_alone():
    """What is found there is the room: nothing of it is speech."""
    pause = np.zeros((1, 3 * RATE), np.float32)
    sound = np.concatenate([pause, spoken(8)], axis=1) + noise(-50, 11)
    found, result = reduced(sound)
    marked, _ = reduced(sound, RoomTone(spans=(result.room_tone,)))
    assert result.room_tone_source == "found"
    np.testing.assert_array_equal(found, marked)


UNTOUCHED = {
    "noise and nobody": lambda: noise(-30, 5),
    "words between digital silence": lambda: words(5, 0.15),
    "less than half a second": lambda: unbroken(WARDEN)[:, : RATE * 2 // 5],
    "a clean voice": lambda: unbroken(WARDEN),
}


@pytest.mark.parametrize("kind", UNTOUCHED)
def test_where_nothing_can_be_told_the_sound_is_left_as_it_is(kind):
    sound = UNTOUCHED[kind]()
    out, result = reduced(sound)
    np.testing.assert_array_equal(out, sound)
    assert "left as it is" in result.notes[0]


def test_digital_silence_among_the_words_teaches_nothing():
    voice = unbroken(VOICES[0])
    sound = voice + room(20, voice)
    gap = np.zeros((1, RATE // 2), np.float32)
    half = sound.shape[1] // 2
    torn = np.concatenate([sound[:, :half], gap, sound[:, half:]], axis=1)
    learned, plain = (learn_noise(None, RATE, s) for s in (torn, sound))
    ratio_db = 10 * np.log10(learned.power / plain.power)
    assert np.abs(ratio_db).max() < 2.0


SPEAKS = {
    "a voice that never pauses": (lambda: unbroken(WARDEN) + room(40, unbroken(WARDEN)), True),
    "the same 5 dB over hiss": (lambda: unbroken(WARDEN) + room(5, unbroken(WARDEN)), True),
    "hiss": (lambda: noise(-30, 8), False),
    "hiss with silence in it": (
        lambda: np.concatenate([noise(-30, 8), np.zeros((1, RATE), np.float32)], axis=1),
        False,
    ),
    "rumble": (lambda: room(0, noise(-30, 8), "rumble"), False),
}


@pytest.mark.parametrize("kind", SPEAKS)
def test_who_speaks_on_has_a_voice_level_and_steady_noise_has_none(kind):
    made, speaks = SPEAKS[kind]
    source = ArraySource(made(), RATE)
    found = measure(source.blocks(), source.info)
    assert (found.voice_level_dbfs is not None) is speaks
    if speaks:
        assert found.reasons["noise_floor_dbfs"] == "somebody speaks in every half second"
