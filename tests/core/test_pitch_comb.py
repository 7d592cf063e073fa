"""The pitch period of a voice, and the noise that goes by the likeness of one to the next."""

from __future__ import annotations

import numpy as np
import pytest

from zesty_core.dsp.pitch import PitchFinder
from zesty_core.dsp.pitch_comb import PitchComb
from zesty_core.dsp.spectral import OVERLAP, Shaping, SpectralProcessor, hann, window_samples

RATE = 48_000
PLACES = 300 + 32 * np.arange(200)


def vowel(pitch_hz, rate=RATE, duration_s=3.0, glide=0.0):
    """A held vowel: partials that fall by 6 dB an octave, up to 6 kHz. ``glide`` is the relative change
    of its pitch per second."""
    t = np.arange(round(duration_s * rate)) / rate
    phase = 2 * np.pi * pitch_hz * (t + glide * t**2 / 2)
    partials = range(
        1, int(min(6000, 0.45 * rate) / (pitch_hz * (1 + max(glide, 0) * duration_s))) + 1
    )
    sound = sum(np.cos(k * phase + k * k) / k for k in partials)
    return 0.1 * sound / sound.std()


def white(level_db, rate=RATE, duration_s=3.0, seed=1):
    rng = np.random.default_rng(seed)
    return 10 ** (level_db / 20) * rng.standard_normal(round(duration_s * rate))


def combed(channels, noise_power, rate=RATE, floor=0.1):
    """Through the comb alone: every gain is one."""
    comb = PitchComb(rate, np.broadcast_to(floor, len(noise_power)))

    def rule(power, first_frame):
        return Shaping(np.ones_like(power), noise_power)

    sound = np.atleast_2d(channels).astype(np.float32)
    processor = SpectralProcessor(rate, len(sound), rule, 20, 20, comb)
    return np.concatenate([processor.push(sound), processor.finish()], axis=1).astype(float)


def power_of_white(level_db, rate=RATE):
    """Power in each bin of white noise of this level."""
    window = hann(window_samples(rate))
    power = 10 ** (level_db / 10) * np.sum(window**2)
    return np.full(len(window) // 2 + 1, power)


def level_db(x):
    return 10 * np.log10(np.mean(np.square(x)))


MIDDLE = slice(RATE // 2, -RATE // 2)


@pytest.mark.parametrize("pitch_hz", [70, 85, 110, 147, 220, 317, 390])
@pytest.mark.parametrize("snr_db", [np.inf, 6])
def test_the_period_is_found(pitch_hz, snr_db):
    rate = 3000
    t = np.arange(3 * rate) / rate
    partials = range(1, int(1200 / pitch_hz) + 1)
    sound = sum(np.cos(2 * np.pi * k * pitch_hz * t + k * k) for k in partials)
    noise = white(-snr_db, rate) * sound.std()
    finder = PitchFinder(rate)
    lags, alike = finder.at((sound + noise).astype(np.float32), PLACES)
    assert np.median(lags) == pytest.approx(rate / pitch_hz, rel=0.015)
    assert np.median(alike) > (0.85 if np.isinf(snr_db) else 0.6)


def test_noise_has_no_period():
    finder = PitchFinder(3000)
    _, alike = finder.at(white(-20, 3000).astype(np.float32), PLACES)
    assert np.quantile(alike, 0.9) < 0.3


def test_silence_has_none_either():
    finder = PitchFinder(3000)
    lags, alike = finder.at(np.zeros(3000, np.float32), PLACES[:50])
    assert not alike.any()
    assert np.isfinite(lags).all()


@pytest.mark.parametrize("pitch_hz", [90, 130, 210])
@pytest.mark.parametrize("rate", [8_000, 16_000, 44_100, 48_000, 96_000])
def test_noise_between_the_partials_of_a_vowel_goes_down(rate, pitch_hz):
    """A share w of two other periods leaves (1 - w)^2 + w^2 / 2 of it: at best a third, -4.8 dB."""
    clean, noise = vowel(pitch_hz, rate), white(-26, rate)
    out = combed(clean + noise, power_of_white(-26, rate), rate)[0]
    middle = slice(rate // 2, -rate // 2)
    below_3_khz = slice(0, 2 * 3000)
    after, before = (np.abs(np.fft.rfft(x[middle])[below_3_khz]) ** 2 for x in (out - clean, noise))
    assert -4.8 < 10 * np.log10(after.sum() / before.sum()) < -2.0
    # The voice itself stays.
    kept = clean[middle] @ out[middle] / (clean[middle] @ clean[middle])
    assert 20 * np.log10(kept) == pytest.approx(0, abs=0.1)


@pytest.mark.parametrize("exponent", [0.0, 0.5, 1.0])
def test_noise_alone_stays_as_it_is(exponent):
    spectrum = np.fft.rfft(white(0, duration_s=10))
    freq_hz = np.fft.rfftfreq(10 * RATE, 1 / RATE)
    noise = np.fft.irfft(spectrum / np.maximum(freq_hz, 30) ** exponent)
    noise *= 0.01 / noise.std()
    window = hann(window_samples(RATE))
    frames = np.lib.stride_tricks.sliding_window_view(noise, len(window))[:: len(window) // OVERLAP]
    power = np.mean(np.abs(np.fft.rfft(frames * window)) ** 2, axis=0)
    out = combed(noise, power)[0]
    assert level_db(out) == pytest.approx(level_db(noise), abs=0.1)


def test_a_clean_voice_stays_as_it_is():
    clean = vowel(120, glide=0.3)
    out = combed(clean, power_of_white(-100))[0]
    assert level_db((out - clean)[MIDDLE]) - level_db(clean) < -60


def test_a_voice_that_glides_is_not_smeared():
    clean, noise = vowel(110, glide=0.4), white(-32)
    out = combed(clean + noise, power_of_white(-32))[0]
    assert level_db((out - clean)[MIDDLE]) < level_db(noise)


def test_channels_keep_their_image():
    left = vowel(140) + white(-26)
    out = combed([left, 0.25 * left], power_of_white(-26) * (1 + 0.25**2) / 2)
    assert np.abs(out[1] - 0.25 * out[0]).max() < 1e-6
    assert np.abs(out[0] - left).max() > 1e-3


def below_and_above_2_khz(x):
    spectrum = np.fft.rfft(x[MIDDLE])
    edge = 2000 * (len(x) - RATE) // RATE
    return np.array(
        [np.sum(np.abs(spectrum[:edge]) ** 2), np.sum(np.abs(spectrum[edge : 3 * edge]) ** 2)]
    )


@pytest.mark.parametrize(
    ("floors_db", "changes_db"),
    [((0, 0), (0, 0)), ((0, -20), (0, -3.5)), ((-1, -2), (-1, -2)), ((-20, 0), (-3.5, 0))],
)
def test_no_more_is_taken_than_is_asked_for(floors_db, changes_db):
    clean, noise = vowel(130), white(-26)
    power = power_of_white(-26)
    bins_hz = np.arange(len(power)) * RATE / window_samples(RATE)
    floor = 10 ** (np.where(bins_hz < 2000, *floors_db) / 20)
    out = combed(clean + noise, power, floor=floor)[0]
    change = 10 * np.log10(below_and_above_2_khz(out - clean) / below_and_above_2_khz(noise))
    assert change == pytest.approx(changes_db, abs=1.0 if min(floors_db) < -4 else 0.4)
