"""Noise reduction against other ways to do it, on spoken voice it was not tuned on.

Beside it: a general-purpose spectral-gating library and a textbook log-spectral-amplitude estimator
(Ephraim & Malah 1985 with the decision-directed rule, a = 0.98), both taught the same room tone.
Measures: scale-invariant signal-to-distortion ratio, and extended short-time intelligibility by a
reference library.
"""

from __future__ import annotations

import functools

import numpy as np
import pytest
from pystoi import stoi
from scipy.special import exp1

from tests.made_sound import RATE, ROOT
from zesty_core.audio.reader import AudioFile
from zesty_core.audio.resample import resampled
from zesty_core.chain.recipe import ChainStep
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import ArraySource, Span
from zesty_core.measures.warble import warble_ratio
from zesty_core.steps.noise_reduction import NoiseReduction

TONE_S = 2
SNRS_DB = (5, 10, 20, 30)


@functools.cache
def voice():
    file = AudioFile(ROOT / "src" / "zesty_demo" / "voices" / "hide-guide-saltmarsh.flac")
    sound = file.read(0, 9 * file.info.sample_rate_hz)
    return resampled(sound, file.info.sample_rate_hz, RATE)[0].astype(np.float64)


@functools.cache
def mixed(snr_db, colour):
    """Room tone, then the voice over the same noise."""
    clean = voice()
    white = np.random.default_rng(snr_db).standard_normal(TONE_S * RATE + len(clean))
    spectrum = np.fft.rfft(white)
    freq_hz = np.maximum(np.fft.rfftfreq(len(white), 1 / RATE), 40)
    hiss = np.fft.irfft(spectrum * freq_hz**-colour, len(white))
    speaking = np.convolve(clean**2, np.ones(4800) / 4800, "same") > 1e-5
    hiss *= np.sqrt(np.mean(clean[speaking] ** 2) / np.mean(hiss**2)) * 10 ** (-snr_db / 20)
    return np.concatenate([np.zeros(TONE_S * RATE), clean]) + hiss


def ours(sound):
    out = []
    run_chain(
        ArraySource(sound[None].astype(np.float32), RATE),
        (ChainStep(NoiseReduction()),),
        out.append,
        room_tone=RoomTone(spans=(Span(0.1, TONE_S - 0.1),)),
    )
    return np.concatenate(out, axis=1)[0].astype(np.float64)


def gating_library(sound):
    import noisereduce

    tone = sound[: TONE_S * RATE]
    return noisereduce.reduce_noise(y=sound, sr=RATE, stationary=True, y_noise=tone)


def textbook(sound, size=1024, floor_db=-18.0):
    """Ephraim & Malah 1985, eq. 20, with the a-priori SNR of 1984, eq. 51."""
    hop, window = size // 4, np.hanning(size + 1)[:size]
    padded = np.pad(sound, size)
    starts = np.arange(0, len(padded) - size, hop)
    spectra = np.fft.rfft(np.stack([padded[s : s + size] for s in starts]) * window)
    power = np.abs(spectra) ** 2
    gamma = power / power[6 : TONE_S * RATE // hop - 2].mean(axis=0)
    before = np.ones(gamma.shape[1])
    for t, now in enumerate(gamma):
        prior = np.maximum(0.98 * before + 0.02 * np.maximum(now - 1, 0), 10**-2.5)
        share = prior / (1 + prior)
        gain = np.minimum(share * np.exp(exp1(np.maximum(share * now, 1e-8)) / 2), 1)
        before = gain**2 * now
        spectra[t] *= np.maximum(gain, 10 ** (floor_db / 20))
    out = np.zeros(len(padded))
    for s, frame in zip(starts, np.fft.irfft(spectra, size) * window / 1.5, strict=True):
        out[s : s + size] += frame
    return out[size:-size]


def scores(sound):
    clean, heard = voice(), sound[TONE_S * RATE :]
    scaled = clean * (clean @ heard) / (clean @ clean)
    ratio = 10 * np.log10(np.sum(scaled**2) / np.sum((heard - scaled) ** 2))
    return ratio, stoi(clean, heard, RATE, extended=True)


@pytest.mark.parametrize("colour", [0.0, 0.5])
@pytest.mark.parametrize("snr_db", SNRS_DB)
def test_better_than_the_library_and_the_textbook(snr_db, colour):
    sound = mixed(snr_db, colour)
    distortion, intelligibility = scores(ours(sound))
    for other in (gating_library, textbook):
        other_distortion, other_intelligibility = scores(other(sound))
        assert distortion > other_distortion
        # A thousandth is less than the measure can tell.
        assert intelligibility > other_intelligibility - 0.001


@pytest.mark.parametrize("snr_db", [20, 30])
def test_never_worse_than_the_unprocessed_sound(snr_db):
    sound = mixed(snr_db, 0.5)
    for after, before in zip(scores(ours(sound)), scores(sound), strict=True):
        assert after > before


def test_pauses_do_not_warble():
    sound = mixed(10, 0.5)
    tone = slice(RATE // 4, TONE_S * RATE - RATE // 2)
    ratio = warble_ratio(sound[None, tone], ours(sound)[None, tone], RATE)
    assert ratio == pytest.approx(1.0, abs=0.1)
    gated = warble_ratio(sound[None, tone], gating_library(sound)[None, tone], RATE)
    assert gated > 1.5
