"""MP3 keeps level, length and place; read back by a general decoder (libsndfile's)."""

from __future__ import annotations

import numpy as np
import pytest
import soundfile

from tests.made_sound import level_db, noise, sine
from zesty_core.audio import encoder
from zesty_core.audio.lame import Mp3Encoder, encode_mp3


def blocks(sound):
    for start in range(0, sound.shape[1], 7_001):
        yield sound[:, start : start + 7_001].T


def made(path, sound, rate, kbps=None, step=4):
    encode_mp3(path, rate, len(sound), kbps, step, blocks(sound))
    samples, read_rate = soundfile.read(path, dtype="float32", always_2d=True)
    assert read_rate == rate
    return samples.T


@pytest.mark.parametrize("rate", [22_050, 44_100, 48_000])
@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize("kbps", [None, 64, 128])
def test_sound_keeps_its_length_and_its_place(tmp_path, rate, channels, kbps):
    sound = noise(-20, 1.0, channels=channels)
    out = made(tmp_path / "a.mp3", sound, rate, kbps, step=2)
    assert out.shape == sound.shape
    middle = slice(12_000, 24_000)
    lags = range(-1_200, 1_201)
    alike = [np.dot(sound[0, middle], np.roll(out[0], -lag)[middle]) for lag in lags]
    assert lags[int(np.argmax(alike))] == 0


@pytest.mark.parametrize("kbps", [48, 64, 96, 128, 192, 320])
def test_the_library_s_own_turning_down_is_undone(tmp_path, kbps):
    tone = sine(-12, 2)
    out = made(tmp_path / "a.mp3", tone, 48_000, kbps)
    assert level_db(out[:, 24_000:72_000]) == pytest.approx(level_db(tone), abs=0.01)


def test_without_the_library_the_media_binding_makes_it_as_loud(tmp_path, monkeypatch):
    tone = sine(-12, 2)
    monkeypatch.setattr(encoder, "lame", lambda: None)
    monkeypatch.setattr(encoder, "_blocks", lambda channels: blocks(tone))
    order = {"path": str(tmp_path / "a.mp3"), "container": "MP3", "sample_rate_hz": 48_000}
    encoder._mp3(order | {"channels": 1, "bitrate_kbps": 96, "variable": False})
    out = soundfile.read(order["path"], dtype="float32", always_2d=True)[0].T
    assert level_db(out[:, 24_000:72_000]) == pytest.approx(level_db(tone), abs=0.02)


def test_what_the_library_refuses_is_an_error(tmp_path):
    with pytest.raises(ValueError, match="LAME refuses num_channels 3"):
        Mp3Encoder(tmp_path / "a.mp3", 48_000, 3, 64)
