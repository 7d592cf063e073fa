"""Reading and writing sound files, sound and damaged ones."""

from __future__ import annotations

import struct
import time

import numpy as np
import pytest
import soundfile

from tests.made_sound import RATE, level_db, noise, sine, spoken, write
from zesty_core.audio.cuts import CutSource
from zesty_core.audio.reader import AudioFile
from zesty_core.audio.writer import AudioWriter
from zesty_core.foundation.errors import BadInput, UnreadableAudio, UnwritableAudio
from zesty_core.foundation.signal import ArraySource, Span

READABLE = [
    ("a.wav", "PCM_U8", 8e-3), ("a.wav", "PCM_16", 4e-5), ("a.wav", "PCM_24", 2e-7),
    ("a.wav", "PCM_32", 1e-7), ("a.wav", "FLOAT", 0), ("a.wav", "DOUBLE", 0),
    ("a.rf64", "PCM_24", 2e-7),
    ("a.aiff", "PCM_16", 4e-5), ("a.flac", "PCM_24", 2e-7), ("a.ogg", "VORBIS", 0.2),
    ("a.mp3", "MPEG_LAYER_III", 0.2),
]  # fmt: skip


@pytest.mark.parametrize(("name", "subtype", "tolerance"), READABLE)
def test_formats_are_read(tmp_path, name, subtype, tolerance):
    sound = spoken(1.5, channels=2)
    path = write(tmp_path / name, sound, subtype=subtype)
    file = AudioFile(path)
    read = np.concatenate(list(file.blocks(5_000)), axis=1)
    assert file.info.channels == 2
    assert file.info.sample_rate_hz == RATE
    shared = min(read.shape[1], sound.shape[1])
    assert np.abs(read[:, :shared] - sound[:, :shared]).max() <= tolerance
    assert np.array_equal(file.read(7_000, 9_000), read[:, 7_000:9_000]) or tolerance > 0.1


@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize("endian", ["LITTLE", "BIG"])
def test_24_bit_files_are_read_as_the_library_reads_them(tmp_path, channels, endian):
    values = np.random.default_rng(0).integers(-(2**23), 2**23, (4001, channels))
    values[:3] = [[-(2**23)] * channels, [2**23 - 1] * channels, [-1] * channels]
    path = tmp_path / "a.wav"
    soundfile.write(path, (values << 8).astype(np.int32), RATE, "PCM_24", endian)
    expected = soundfile.read(path, dtype="float32", always_2d=True)[0].T
    file = AudioFile(path)
    assert np.array_equal(np.concatenate(list(file.blocks(1000)), axis=1), expected)
    assert np.array_equal(file.read(3990, 5000), expected[:, 3990:])


def test_a_24_bit_header_that_says_something_else_about_its_bytes(tmp_path):
    path = write(tmp_path / "a.wav", noise(-20, 0.1), subtype="PCM_24")
    expected = AudioFile(path).read(0, 4000)
    data = bytearray(path.read_bytes())
    at = data.index(b"fmt ") + 16
    data[at : at + 4] = struct.pack("<I", 4 * RATE)
    path.write_bytes(data)
    assert np.array_equal(AudioFile(path).read(0, 4000), expected)


@pytest.mark.parametrize("channels", [1, 2])
def test_24_bit_files_hold_the_nearest_integers_and_say_what_was_cut_off(tmp_path, channels):
    sound = noise(-9, 0.1, channels=channels)
    sound[:, :4] = [1.0, -1.0, 1.5, -1.5]
    with AudioWriter(tmp_path / "a.wav", RATE, channels) as writer:
        for part in np.split(sound, [1, 3, 6, 107], axis=1):
            writer.write(part)
    read = soundfile.read(tmp_path / "a.wav", dtype="int32", always_2d=True)[0].T >> 8
    expected = np.clip(np.rint(sound.astype(float) * 2**23), -(2**23), 2**23 - 1)
    assert np.array_equal(read, expected)
    assert writer.clipped_samples == np.count_nonzero(np.abs(sound) > 1.0)


def truncated(path):
    whole = write(path, noise(-20, 2)).read_bytes()
    path.write_bytes(whole[: len(whole) * 2 // 3])


def short_of_a_few_bytes(path):
    path.write_bytes(write(path, noise(-20, 1), subtype="PCM_24").read_bytes()[:-5])


def lying_header(path):
    data = bytearray(write(path, noise(-20, 1)).read_bytes())
    at = data.index(b"data") + 4
    data[at : at + 4] = struct.pack("<I", 100_000_000)
    path.write_bytes(data)


def with_nan(path):
    sound = noise(-20, 1)
    sound[0, 1000] = np.nan
    write(path, sound, subtype="FLOAT")


BAD = {
    "text": (lambda p: p.write_text("no sound"), "is no sound file"),
    "empty": (lambda p: p.write_bytes(b""), "is empty"),
    "missing": (lambda p: None, "no such file"),
    "folder": (lambda p: p.mkdir(), "is not a file"),
    "no samples": (lambda p: write(p, np.zeros((1, 0), np.float32)), "holds no sound"),
    "six channels": (lambda p: write(p, noise(-20, 0.1, channels=6)), "6 channels"),
    "too slow": (lambda p: write(p, noise(-20, 0.1), rate=4_000), "rate of 4000 Hz"),
    "truncated": (truncated, "ends early: 0:01.3 of the 0:02.0 in its header are there"),
    "truncated at its very end": (
        short_of_a_few_bytes,
        "early: 5 of the 144000 bytes in its header",
    ),
    "lying header": (lying_header, "ends early"),
    "not a number": (with_nan, "not a number at 0:00.0"),
    "absurd": (lambda p: write(p, 1e6 * noise(0, 0.1), subtype="FLOAT"), "times full scale"),
}


@pytest.mark.parametrize("name", BAD)
def test_bad_files_are_named_with_a_reason(tmp_path, name):
    make, reason = BAD[name]
    path = tmp_path / "take.wav"
    make(path)
    with pytest.raises(UnreadableAudio) as fault:
        list(AudioFile(path).blocks())
    assert reason in fault.value.message
    assert fault.value.message.startswith("take.wav: ")


def test_truncated_flac_is_told(tmp_path):
    path = write(tmp_path / "a.flac", noise(-20, 3))
    path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
    with pytest.raises(UnreadableAudio):
        list(AudioFile(path).blocks())


@pytest.mark.parametrize(
    ("name", "subtype"), [("o.wav", "PCM_24"), ("o.flac", "PCM_24"), ("o.wav", "FLOAT")]
)
def test_what_is_written_is_read_back(tmp_path, name, subtype):
    sound = spoken(1, channels=2)
    with AudioWriter(tmp_path / name, RATE, 2, subtype) as writer:
        writer.write(sound[:, :1000])
        writer.write(sound[:, 1000:])
    read, rate = soundfile.read(tmp_path / name, always_2d=True)
    assert rate == RATE
    assert np.abs(read.T - sound).max() < 2e-7
    assert [p.name for p in tmp_path.iterdir()] == [name]


def test_nothing_is_left_after_an_error(tmp_path):
    def fail():
        with AudioWriter(tmp_path / "o.wav", RATE, 1) as writer:
            writer.write(noise(-20, 0.1))
            raise BadInput("stopped")

    with pytest.raises(BadInput, match="stopped"):
        fail()
    assert list(tmp_path.iterdir()) == []


def test_a_folder_that_is_not_there(tmp_path):
    with (
        pytest.raises(UnwritableAudio, match="folder does not exist"),
        AudioWriter(tmp_path / "x" / "o.wav", RATE, 1),
    ):
        pass


def test_what_does_not_fit_is_cut_and_counted(tmp_path):
    with AudioWriter(tmp_path / "o.wav", RATE, 1) as writer:
        writer.write(np.array([[0.5, 1.5, -2.0]], np.float32))
    assert writer.clipped_samples == 2


def test_sixteen_bit_is_dithered_and_repeatable(tmp_path):
    """A tone below half a step survives as a tone: Lipshitz, Wannamaker & Vanderkooy 1992."""
    tone = sine(-98, 4, 1000)
    names = []
    for name in ("a.wav", "b.wav"):
        with AudioWriter(tmp_path / name, RATE, 1, "PCM_16") as writer:
            writer.write(tone)
        names.append((tmp_path / name).read_bytes())
    assert names[0] == names[1]
    read, _ = soundfile.read(tmp_path / "a.wav")
    amplitude = 2 * abs(np.mean(read * np.exp(-2j * np.pi * 1000 * np.arange(len(read)) / RATE)))
    assert 20 * np.log10(amplitude) == pytest.approx(-98, abs=1.0)


def test_cuts_leave_out_their_span_sample_for_sample():
    sound = noise(-20, 4, channels=2)
    cut = CutSource(ArraySource(sound, RATE), [Span(1.0, 2.0), Span(3.5, 4.0)])
    out = np.concatenate(list(cut.blocks(999)), axis=1)
    half = int(0.005 * RATE)
    assert out.shape[1] == int(2.5 * RATE)
    assert np.array_equal(out[:, : RATE - half], sound[:, : RATE - half])
    assert np.array_equal(out[:, RATE + half :], sound[:, 2 * RATE + half : int(3.5 * RATE)])


def test_a_join_neither_clicks_nor_dips():
    sound = sine(-6, 4, 100.0)
    out = CutSource(ArraySource(sound, RATE), [Span(1.0, 2.0)]).read(0, 3 * RATE)
    assert np.abs(np.diff(out[0])).max() < 1.05 * np.abs(np.diff(sound[0])).max()
    assert level_db(out[:, RATE - 500 : RATE + 500]) == pytest.approx(level_db(sound), abs=0.5)


def test_cutting_everything_is_refused():
    with pytest.raises(BadInput, match="nothing"):
        CutSource(ArraySource(noise(-20, 1), RATE), [Span(0.0, 1.0)])


@pytest.mark.parametrize("channels", [1, 2])
def test_float_files_of_the_same_sound_have_the_same_bytes_at_any_time(tmp_path, channels):
    paths = [tmp_path / name for name in ("a.wav", "b.wav")]
    for path in paths:
        with AudioWriter(path, RATE, channels, "FLOAT") as writer:
            writer.write(noise(-20, 0.1, channels=channels))
        # The header holds whole seconds.
        time.sleep(1.1)
    assert paths[0].read_bytes() == paths[1].read_bytes()
    assert soundfile.info(paths[0]).frames == round(0.1 * RATE)
