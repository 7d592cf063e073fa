"""What is shown of a stretch: waveform down to samples, spectrogram, figures, a waveform that grows."""

from __future__ import annotations

import base64

import numpy as np
import pytest

from tests.made_sound import RATE, noise, sine
from tests.server.conftest import wav
from zesty_core.audio.reader import AudioFile
from zesty_core.measures.overview import BIN_SAMPLES, OverviewMaker
from zesty_server.recordings.kept_answers import keep_json

LENGTH_S = 6.0


@pytest.fixture
def tones(api):
    """One kilohertz at -20 dBFS, then four at -40, three seconds each."""
    half = LENGTH_S / 2
    sound = np.concatenate([sine(-20, half), sine(-40, half, 4_000)], axis=1)
    made = api.upload(wav(sound, subtype="FLOAT"), "Tones.wav").json()
    return f"recordings/{made['id']}", sound[0]


def asked(api, path, what, **query):
    words = "&".join(f"{k}={v}" for k, v in query.items())
    return api("get", f"{path}/{what}/?{words}")


@pytest.mark.parametrize(
    ("what", "size"),
    [("time-series", {"points": 50}), ("spectrogram", {"columns": 20, "rows": 32})],
)
def test_what_is_told_of_the_whole_is_worked_out_once(api, tones, what, size, monkeypatch):
    path, _ = tones
    first = asked(api, path, what, start_s=0, end_s=LENGTH_S, **size).json()
    reads, read = [], AudioFile.read
    monkeypatch.setattr(AudioFile, "read", lambda *span: (reads.append(span), read(*span))[1])
    assert asked(api, path, what, start_s=0, **size).json() == first
    assert reads == []
    assert asked(api, path, what, start_s=0, end_s=1, **size).json() != first
    assert reads


@pytest.mark.parametrize(
    ("start_s", "end_s", "bins"), [(0, 6, 600), (1, 1.5, 800), (2.99, 3.01, 960), (0.5, 0.501, 48)]
)
def test_the_waveform_holds_every_sample_at_any_zoom(api, tones, start_s, end_s, bins):
    path, sound = tones
    found = asked(api, path, "overview", start_s=start_s, end_s=end_s, bins=bins).json()
    assert len(found["low"]) <= bins + 1
    assert found["start_s"] <= start_s + 1e-9
    bin_samples = round(found["bin_s"] * RATE)
    first = round(found["start_s"] * RATE)
    for i in (0, len(found["low"]) // 2, len(found["low"]) - 1):
        there = sound[first + i * bin_samples : first + (i + 1) * bin_samples]
        assert found["low"][i] == pytest.approx(there.min(), abs=2e-6)
        assert found["high"][i] == pytest.approx(there.max(), abs=2e-6)
        assert found["rms"][i] == pytest.approx(np.sqrt(np.mean(there**2)), abs=2e-6)
    if end_s - start_s < 0.03:
        assert bin_samples == 1


def test_the_spectrogram_shows_each_tone_where_and_when_it_is(api, tones):
    path, _ = tones
    found = asked(api, path, "spectrogram", start_s=0, end_s=6, columns=60, rows=128).json()
    values = np.frombuffer(base64.b64decode(found["values"]), np.uint8)
    levels = found["floor_db"] + found["step_db"] * values.reshape(-1, found["columns"])
    freqs = np.asarray(found["freqs_hz"])
    assert levels.shape[0] == len(freqs)
    for column, freq_hz, level_dbfs in ((10, 1000, -20), (50, 4000, -40)):
        loudest = levels[:, column].argmax()
        assert freqs[loudest] == pytest.approx(freq_hz, rel=0.06)
        assert levels[loudest, column] == pytest.approx(level_dbfs, abs=1.5)
    assert levels[:, 10].min() < -90


def test_figures_of_a_stretch_are_those_of_the_tone_there(api, tones):
    path, _ = tones
    first = asked(api, path, "figures", start_s=0.5, end_s=2.5).json()
    assert first["duration_s"] == pytest.approx(2)
    assert first["sample_peak_dbfs"] == pytest.approx(-20, abs=0.01)
    assert first["rms_dbfs"] == pytest.approx(-23.01, abs=0.01)
    # ITU-R BS.1770: a 1 kHz sine of one channel reads its RMS level, the filter's gain there
    # (+0.69 dB) and the offset of -0.691 dB.
    assert first["integrated_lufs"] == pytest.approx(-23.0, abs=0.1)
    assert asked(api, path, "figures", start_s=3.5).json()["rms_dbfs"] == pytest.approx(
        -43, abs=0.1
    )


@pytest.mark.parametrize("what", ["overview", "spectrogram", "figures"])
@pytest.mark.parametrize(("start_s", "end_s"), [(3, 2), (7, 9), (2, 2)])
def test_stretches_that_are_none(api, tones, what, start_s, end_s):
    answer = asked(api, tones[0], what, start_s=start_s, end_s=end_s)
    assert answer.status_code == 400
    assert "must lie within 0 and 6.000 s" in answer.json()["error"]["message"]
    assert asked(api, tones[0], what, start_s="x").status_code == 400


def test_the_waveform_grows_while_it_is_read():
    sound = noise(-20, 4)
    maker = OverviewMaker(1)
    for at in range(0, 2 * RATE, RATE):
        maker.push(sound[:, at : at + RATE])
    so_far = maker.so_far(4 * RATE)
    bins, read = 4 * RATE // BIN_SAMPLES, 2 * RATE // BIN_SAMPLES
    assert (so_far[:read, 1] > so_far[:read, 0]).all()
    assert not so_far[read + 1 : bins].any()
    maker.push(sound[:, 2 * RATE :])
    whole = maker.finish()
    assert whole.shape == so_far.shape
    assert np.array_equal(whole[:read], so_far[:read])


def test_what_cannot_be_kept_is_left(tmp_path):
    keep_json(tmp_path / "gone" / "a.json", {"a": 1})
    keep_json(tmp_path / "a.json", {"a": 1})
    assert [p.name for p in tmp_path.iterdir()] == ["a.json"]
