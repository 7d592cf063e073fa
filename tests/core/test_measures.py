"""Voice level, noise floor, clipping, DC, and what cannot be determined."""

from __future__ import annotations

import dataclasses
import json

import numpy as np
import pytest

from tests.made_sound import RATE, level_db, noise, sine, spoken
from zesty_core.foundation.signal import ArraySource, Span
from zesty_core.measures.clipping import ClippingMeter
from zesty_core.measures.document import measures_document, measures_from
from zesty_core.measures.overview import OverviewMaker, read_overview
from zesty_core.measures.stream import measure


def measures_of(sound, rate=RATE, block=16_384, room_tone=None):
    source = ArraySource(sound, rate)
    return measure(source.blocks(block), source.info, room_tone)


def bursts(level_dbfs=-20.0, on_s=2.0, off_s=2.0, times=3):
    """Tone and quiet noise by turns, starting and ending quiet."""
    tone, rest = sine(level_dbfs, on_s), np.zeros((1, round(off_s * RATE)), np.float32)
    sound = np.concatenate([rest, *([tone, rest] * times)], axis=1)
    return sound + noise(-75, sound.shape[1] / RATE)[:, : sound.shape[1]]


@pytest.mark.parametrize("level_dbfs", [-6.0, -20.0, -33.3, -45.0])
def test_voice_level_is_the_level_while_active(level_dbfs):
    """ITU-T P.56: the level over active time; pauses shorter than the hangover count as active."""
    measures = measures_of(bursts(level_dbfs))
    # The envelope's release and the hangover lengthen each burst by a little.
    assert measures.voice_level_dbfs == pytest.approx(level_dbfs - 3.01, abs=0.8)
    assert measures.voice_activity == pytest.approx(6 / 14, abs=0.08)


@pytest.mark.parametrize("offset", [0.003, -0.01, 0.03])
def test_an_offset_is_no_voice(offset):
    sound = spoken(6) + noise(-70, 6)
    plain, moved = measures_of(sound), measures_of(sound + np.float32(offset))
    assert moved.voice_level_dbfs == pytest.approx(plain.voice_level_dbfs, abs=0.15)
    assert moved.voice_activity == pytest.approx(plain.voice_activity, abs=0.02)


@pytest.mark.parametrize("gain_db", [-24.0, -12.0, -7.3, 5.0])
def test_voice_level_moves_with_gain(gain_db):
    sound = spoken(10) + noise(-80, 10)
    louder = (sound * 10 ** (gain_db / 20)).astype(np.float32)
    change = measures_of(louder).voice_level_dbfs - measures_of(sound).voice_level_dbfs
    assert change == pytest.approx(gain_db, abs=0.1)


@pytest.mark.parametrize("block", [1_000, 4_096, 65_536])
def test_blocks_do_not_matter(block):
    sound = spoken(6, channels=2) + noise(-60, 6, channels=2)
    assert measures_of(sound, block=block).as_json() == measures_of(sound).as_json()


def test_noise_floor_from_marked_and_from_found_room_tone():
    sound = np.concatenate([noise(-60, 4), spoken(6) + noise(-60, 6)], axis=1)
    marked = measures_of(sound, room_tone=Span(0.5, 3.5))
    found = measures_of(sound)
    assert marked.noise_floor_dbfs == pytest.approx(-60, abs=0.2)
    assert marked.noise_floor_source == "room tone"
    assert found.noise_floor_dbfs == pytest.approx(-60, abs=0.5)
    assert found.found_room_tone is not None
    assert 0 <= found.found_room_tone.start_s < found.found_room_tone.end_s <= 4.2
    assert found.clearance_db == pytest.approx(found.voice_level_dbfs + 60, abs=0.5)


@pytest.mark.parametrize("offset", [-0.3, -0.01, 0.01, 0.3])
@pytest.mark.parametrize("noise_db", [-70, -95])
def test_dc_offset_is_reported_apart_from_noise(offset, noise_db):
    sound = noise(noise_db, 3, channels=2) + np.float32([[offset], [-offset / 2]])
    measures = measures_of(sound)
    assert measures.dc_offset == pytest.approx((offset, -offset / 2), abs=1e-4)
    # Taken from the quietest half second, so a little under the whole.
    assert noise_db - 0.7 < measures.noise_floor_dbfs < noise_db + 0.2


def clipped_at(level, sound):
    return np.clip(sound, -level, level)


@pytest.mark.parametrize(
    ("sound", "runs"),
    [
        (sine(-1.0, 1.0), 0),
        (sine(0.0, 1.0, 60.0), None),  # a full-scale sine touches the top: anything goes
        (clipped_at(1.0, sine(4.0, 0.1, 100.0)), 20),
        (clipped_at(0.5, sine(0.0, 0.1, 100.0)), 20),
        (np.round(sine(-12.0, 1.0, 50.0) * 32768) / 32768, 0),  # flat crests of a slow 16-bit wave
        (spoken(4), 0),
        (np.zeros((1, 1000), np.float32), 0),
    ],
)
def test_clipped_runs(sound, runs):
    found = measures_of(sound.astype(np.float32)).clipped_runs
    assert runs is None or found == runs


@pytest.mark.parametrize("steps", [64, 4096, 2**23])
@pytest.mark.parametrize("top", [0.3, 0.9, 1.0])
def test_cut_off_runs_are_the_same_in_whole_groups_and_one_sample_at_a_time(steps, top):
    sound = np.clip(spoken(2) + noise(-30, 2), -top, top)
    sound = (np.round(sound * steps) / steps).astype(np.float32)
    whole, single = ClippingMeter(1), ClippingMeter(1)
    whole.push(sound)
    for n in range(sound.shape[1]):
        single.push(sound[:, n : n + 1])
    for meter in (whole, single):
        meter.finish()
    assert (whole.runs, whole.marks) == (single.runs, single.marks)


@pytest.mark.parametrize(
    ("sound", "missing"),
    [
        (np.zeros((1, RATE), np.float32), {"voice_level_dbfs", "rms_dbfs", "integrated_lufs"}),
        (sine(-20, 0.0001), {"integrated_lufs", "noise_floor_dbfs"}),
        (noise(-50, 5), {"voice_level_dbfs", "clearance_db"}),
    ],
)
def test_none_with_a_reason_and_never_nan(sound, missing):
    data = measures_of(sound).as_json()
    text = json.dumps(data, allow_nan=False)
    assert "NaN" not in text
    for name in missing:
        assert data[name] is None
        assert data["reasons"][name]


def test_rms_has_no_offset():
    assert measures_of(sine(-10, 2)).rms_dbfs == pytest.approx(-13.01, abs=0.01)


@pytest.mark.parametrize("length", [1, 255, 256, 257, 100_000, 1_000_003])
def test_overview_holds_every_peak_at_every_level(tmp_path, length):
    sound = noise(-20, 1.0 + length / RATE, channels=2)[:, :length]
    maker = OverviewMaker(2)
    for start in range(0, length, 5_000):
        maker.push(sound[:, start : start + 5_000])
    path = tmp_path / "overview.npy"
    np.save(path, maker.finish())
    for most in (1, 300, 4_000):
        part = read_overview(path, length, 0, length, most)
        assert part.bins[:, 1].max() == sound.max()
        assert part.bins[:, 0].min() == sound.min()
        assert len(part.bins) * part.bin_samples >= length
    # RMS of equally long bins averages to that of the whole.
    if length % 256 == 0:
        fine = read_overview(path, length, 0, length, length)
        assert level_db(fine.bins[:, 2]) == pytest.approx(level_db(sound), abs=0.01)


KEPT = {
    "a voice over a humming room": spoken(8) + noise(-60, 8) + sine(-50, 8, 50),
    "two channels with an offset": spoken(4, channels=2) + 0.01,
    "silence": np.zeros((1, RATE), np.float32),
    "less than silence": np.full((1, 10), 1e-40, np.float32),
    "nothing": np.zeros((1, 0), np.float32),
    "clipped": np.clip(30 * spoken(2), -1, 1),
}


@pytest.mark.parametrize("name", KEPT)
def test_kept_measures_come_back_to_the_last_bit(name):
    source = ArraySource(KEPT[name].astype(np.float32), RATE)
    before = measure(source.blocks(), source.info)
    text = json.dumps(measures_document(before), allow_nan=False)
    after = measures_from(json.loads(text))
    assert json.dumps(measures_document(after)) == text
    for field in dataclasses.fields(before):
        was, now = getattr(before, field.name), getattr(after, field.name)
        if field.name == "spectrum" and was:
            assert (was.bin_hz, was.power.tobytes()) == (now.bin_hz, now.power.tobytes())
        else:
            assert was == now, field.name
    told = json.dumps(after.as_json(), allow_nan=False)
    assert told == json.dumps(before.as_json(), allow_nan=False)


@pytest.mark.parametrize("offset", [0.0, 0.01, -0.4])
def test_an_offset_alone_between_words_is_digital_silence(offset):
    source = ArraySource(spoken(8) + np.float32(offset), RATE)
    found = measure(source.blocks(), source.info)
    assert found.digital_silence_share == pytest.approx(0.644, abs=0.01)
    assert (found.noise_floor_dbfs, found.room_tones) == (None, ())
    assert found.reasons["noise_floor_dbfs"] == "no half second without digital silence"


@pytest.mark.parametrize("document", [None, {}, [], {"duration_s": "long"}])
def test_what_is_no_measures_document_is_told(document):
    with pytest.raises(ValueError, match="measures"):
        measures_from(document)
