"""Short-time spectra in chunks, and the noise model that follows a drifting room."""

from __future__ import annotations

import numpy as np
import pytest
import scipy.fft

from tests.made_sound import RATE, level_db, noise, sine
from zesty_core.dsp.linear_phase import band_pass, turn_band_down
from zesty_core.dsp.noise_model import DriftTracker, learn_noise
from zesty_core.dsp.spectral import (
    Shaping,
    SpectralProcessor,
    frame_spectra,
    hann,
    window_samples,
)


@pytest.mark.parametrize("rate", [8_000, 11_025, 16_000, 22_050, 44_100, 48_000, 96_000, 192_000])
def test_windows_last_32_ms_and_transform_fast(rate):
    size = window_samples(rate)
    assert size / rate == pytest.approx(0.032, rel=0.06)
    assert size % 6 == 0  # whole samples from frame to frame, an even number of them
    assert scipy.fft.next_fast_len(size, real=True) == size


def test_frames_are_those_of_numpy():
    sound, window = noise(-20, 0.2)[0], hann(1536)
    spectra = frame_spectra(sound, window)
    for t in (0, 7, len(spectra) - 1):
        expected = np.fft.rfft(sound[t * 512 : t * 512 + 1536].astype(float) * window)
        assert np.abs(spectra[t] - expected).max() < 1e-5


def processed(sound, rule, block=10_007):
    processor = SpectralProcessor(RATE, len(sound), rule, 20, 20)
    out = [processor.push(sound[:, i : i + block]) for i in range(0, sound.shape[1], block)]
    return np.concatenate([*out, processor.finish()], axis=1)


def test_a_gain_in_a_band_is_that_gain():
    sound = sine(-20, 12, 1000) + sine(-20, 12, 8000)
    freq_hz = np.arange(769) * RATE / 1536

    def rule(power, first_frame):
        gain = np.where(freq_hz > 4000, 0.1, 1.0).astype(np.float32)
        return Shaping(np.tile(gain, (len(power), 1)))

    out = processed(sound, rule)
    spectrum = np.abs(np.fft.rfft(out[0, RATE : 2 * RATE] * np.hanning(RATE))) * 4 / RATE
    assert 20 * np.log10(spectrum[1000]) == pytest.approx(-20, abs=0.05)
    assert 20 * np.log10(spectrum[8000]) == pytest.approx(-40, abs=0.05)


@pytest.mark.parametrize(
    ("duration_s", "first_frames"),
    [
        (2, [-20]),
        (14, [-20, 638]),
        # Two whole chunks; what is left then, three and a half of them, in four.
        (70, [-20, 1132, 2284, 3350, 4416, 5482]),
    ],
)
def test_chunks_know_where_they_are_and_join_without_a_seam(duration_s, first_frames):
    starts = []

    def rule(power, first_frame):
        starts.append(first_frame)
        # A gain that depends on the frame alone is the same in every chunk's context.
        t = np.arange(len(power)) + first_frame
        gain = 0.5 + 0.4 * np.sin(t / 50)
        return Shaping(np.repeat(gain[:, None], power.shape[1], axis=1).astype(np.float32))

    sound = np.full((1, duration_s * RATE), 0.1, np.float32)
    out = processed(sound, rule)[0]
    assert sorted(starts) == first_frames
    # Away from the file's own edges the gain moves smoothly: no jump where chunks meet.
    assert np.abs(np.diff(out[4096:-4096])).max() < 2e-5


@pytest.mark.parametrize("drift_db", [-6.0, 0.0, 4.0, 7.0])
def test_a_drifting_room_is_followed(drift_db):
    hop_s, bin_hz = 512 / RATE, RATE / 1536
    rng = np.random.default_rng(2)
    tone = rng.exponential(1.0, (200, 769)).astype(np.float32)
    snr = rng.exponential(1.0, (1500, 769)) * 10 ** (drift_db / 10)
    tracker = DriftTracker(hop_s, bin_hz)
    followed = tracker.scale(snr.astype(np.float32), tracker.lowest(tone))
    settled = 10 * np.log10(followed[375:1125, 10:])
    assert settled.mean() == pytest.approx(drift_db, abs=0.6)


def test_a_band_without_any_sound_is_learned_as_steady():
    snr = np.random.default_rng(3).exponential(1.0, (200, 769)).astype(np.float32)
    steady = DriftTracker(512 / RATE, RATE / 1536).lowest(snr)
    snr[:, 600:] = 0.0
    found = DriftTracker(512 / RATE, RATE / 1536).lowest(snr)
    assert np.isfinite(found).all()
    assert found == pytest.approx(steady, abs=0.1)


def test_drift_stays_within_its_limit_and_silence_is_no_room():
    hop_s, bin_hz = 512 / RATE, RATE / 1536
    snr = np.random.default_rng(2).exponential(100.0, (1000, 769)).astype(np.float32)
    snr[:200] = 0.0
    tracker = DriftTracker(hop_s, bin_hz)
    scale = 10 * np.log10(tracker.scale(snr, tracker.lowest(snr[200:] / 100)))
    assert scale.max() <= DriftTracker.MOST_DB + 1e-3
    assert scale[450:, 20:].min() > 8


def test_learned_noise_has_the_level_of_the_room_tone():
    tone = noise(-50, 3)
    learned = learn_noise(tone, RATE)
    # Power of Hann frames: sum over both halves of the spectrum, by the window's energy.
    power = 2 * learned.power.sum() / (1536 * np.square(hann(1536)).sum())
    assert 10 * np.log10(power) == pytest.approx(-50, abs=0.2)
    assert learn_noise(np.zeros((1, RATE), np.float32), RATE) is None


@pytest.mark.parametrize("factor", [1.0, 0.5, 0.0])
def test_only_the_band_is_turned_down(factor):
    taps = band_pass(5000, 10_000, RATE)
    half = len(taps) // 2
    sound = (sine(-20, 1, 1000) + sine(-20, 1, 7000))[0]
    line = np.concatenate([np.zeros(half, np.float32), sound, np.zeros(half, np.float32)])
    out = np.empty_like(sound)
    turn_band_down(line, taps, np.full(len(sound), factor, np.float32), out)
    expected = sine(-20, 1, 1000)[0] + factor * sine(-20, 1, 7000)[0]
    middle = slice(RATE // 4, -RATE // 4)
    assert level_db(out[middle] - expected[middle]) < -75
    if factor == 1.0:
        assert np.array_equal(out, sound)
