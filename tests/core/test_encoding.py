"""Finished files: every container, read back by an independent library; tags, rates, channels."""

from __future__ import annotations

import av
import mutagen
import numpy as np
import pytest
import soundfile

from tests.made_sound import RATE, level_db, noise, sine, spoken
from zesty_core.audio.channels import MonoSource, better_channel
from zesty_core.audio.conversion import ConvertingSink
from zesty_core.audio.encoding import Encoding, make_writer
from zesty_core.audio.reader import AudioFile
from zesty_core.audio.resample import Resampler
from zesty_core.audio.tags import checked_tags
from zesty_core.foundation.errors import BadInput, BadSetting, UnreadableAudio, UnwritableAudio
from zesty_core.foundation.signal import ArraySource, SignalInfo


def encode(path, sound, rate=RATE, tags=None, **settings):
    encoding = Encoding.for_path(path, **settings)
    with make_writer(path, encoding, rate, len(sound), tags=tags) as writer:
        for start in range(0, sound.shape[1], 10_000):
            writer.write(sound[:, start : start + 10_000])
    return path


def media_binding(path):
    """Codec, rate and samples as another program reads them."""
    with av.open(str(path)) as file:
        stream = file.streams.audio[0]
        frames = [f.to_ndarray() for f in file.decode(stream)]
        return stream.codec_context.name, stream.rate, sum(f.shape[-1] for f in frames)


@pytest.mark.parametrize(
    ("name", "settings", "codec"),
    [
        ("a.wav", {"depth": "16"}, "pcm_s16le"),
        ("a.wav", {"depth": "24"}, "pcm_s24le"),
        ("a.wav", {"depth": "32f"}, "pcm_f32le"),
        ("a.flac", {"depth": "16"}, "flac"),
        ("a.flac", {}, "flac"),
        ("a.mp3", {}, "mp3float"),
        ("a.mp3", {"variable": True, "bitrate_kbps": 130}, "mp3float"),
        ("a.ogg", {}, "vorbis"),
        ("a.opus", {"bitrate_kbps": 48}, "libopus"),
    ],
)
@pytest.mark.parametrize("channels", [1, 2])
def test_containers_hold_what_was_written(tmp_path, name, settings, codec, channels):
    sound = spoken(2, channels=channels)
    path = encode(tmp_path / name, sound, **settings)
    read_codec, rate, _ = media_binding(path)
    assert (read_codec.replace("opus", "libopus").replace("liblib", "lib"), rate) == (codec, RATE)
    back = AudioFile(path)
    out = back.read(0, back.info.length_samples)
    assert abs(out.shape[1] - sound.shape[1]) <= 0.001 * RATE
    shared = min(out.shape[1], sound.shape[1])
    error = level_db(out[:, :shared] - sound[:, :shared])
    assert error < level_db(sound) - (12 if path.suffix in (".mp3", ".ogg", ".opus") else 72)
    assert [p.name for p in tmp_path.iterdir()] == [name]


@pytest.mark.parametrize("kbps", [64, 160])
def test_constant_bitrate_is_kept(tmp_path, kbps):
    path = encode(tmp_path / "a.mp3", noise(-30, 10), bitrate_kbps=kbps)
    assert path.stat().st_size * 8 / 10 / 1000 == pytest.approx(kbps, rel=0.03)


def test_variable_bitrate_spends_less_on_less(tmp_path):
    busy = encode(tmp_path / "a.mp3", noise(-20, 5), variable=True).stat().st_size
    calm = encode(tmp_path / "b.mp3", sine(-20, 5), variable=True).stat().st_size
    assert calm < 0.7 * busy


@pytest.mark.parametrize("name", ["a.wav", "a.flac", "a.mp3", "a.ogg", "a.opus"])
def test_tags_are_read_by_another_library(tmp_path, name):
    tags = checked_tags(
        {"title": "Türkise Flut", "artist": "Warden", "track": "3", "year": "2031", "comment": "a"}
    )
    path = encode(tmp_path / name, spoken(1), tags=tags)
    with av.open(str(path)) as file:
        read = {k.lower(): v for k, v in {**file.metadata, **file.streams[0].metadata}.items()}
    # ID3 chunks of WAV files are known to fewer programs; the tag library reads them.
    if name == "a.wav":
        assert str(mutagen.File(path).tags["TIT2"]) == "Türkise Flut"
        assert soundfile.info(path).frames == RATE
    else:
        assert read["title"] == "Türkise Flut"
        assert read["artist"] == "Warden"
        assert read["track"] == "3" or read["tracknumber"] == "3"


@pytest.mark.parametrize(
    ("given", "message"),
    [
        ({"mood": "x"}, "tags.mood: is not one of title"),
        ({"title": "two\nlines"}, "tags.title: must be one line"),
        ({"title": "x" * 3000}, "up to 2000 letters"),
    ],
)
def test_bad_tags_are_named(given, message):
    with pytest.raises(BadSetting, match=message):
        checked_tags(given)


@pytest.mark.parametrize(
    ("name", "settings", "message"),
    [
        ("a.xyz", {}, "the ending must be one of .wav"),
        ("a.mp3", {"depth": "16"}, "depth: is for WAV and FLAC"),
        ("a.mp3", {"bitrate_kbps": 5}, "bitrate_kbps: must be from 32 to 320, got 5"),
        ("a.flac", {"depth": "32f"}, "depth: must be one of 16, 24"),
        ("a.wav", {"variable": True}, "is for MP3, OGG and Opus"),
    ],
)
def test_impossible_encodings_are_refused(tmp_path, name, settings, message):
    with pytest.raises(BadInput, match=message):
        Encoding.for_path(tmp_path / name, **settings)


@pytest.mark.parametrize(
    ("container", "rate", "expected"),
    [
        ("MP3", 96_000, 48_000),
        ("MP3", 44_100, 44_100),
        ("OPUS", 44_100, 48_000),
        ("WAV", 96_000, 96_000),
    ],
)
def test_rates_a_codec_does_not_know_are_converted(container, rate, expected):
    assert Encoding(container).rate_hz(rate) == expected


def test_a_dying_encoder_leaves_nothing_behind(tmp_path):
    def fail():
        with make_writer(tmp_path / "a.mp3", Encoding("MP3"), RATE, 1) as writer:
            writer._process.kill()
            writer._process.wait()
            for _ in range(50):
                writer.write(noise(-20, 1))

    with pytest.raises(UnwritableAudio, match="was not written"):
        fail()
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize(
    ("from_hz", "to_hz"), [(48_000, 44_100), (44_100, 48_000), (96_000, 16_000)]
)
def test_rate_conversion_in_blocks_keeps_tone_level_and_length(from_hz, to_hz):
    sound = sine(-6, 2, 997, from_hz)
    resampler = Resampler(from_hz, to_hz, 1)
    pieces = [resampler.push(sound[:, i : i + 7_001]) for i in range(0, sound.shape[1], 7_001)]
    out = np.concatenate([*pieces, resampler.finish()], axis=1)
    expected = sine(-6, 2, 997, to_hz)
    assert abs(out.shape[1] - expected.shape[1]) <= 1
    middle = slice(to_hz // 4, to_hz)
    assert np.abs(out[0, middle] - expected[0, middle]).max() < 1e-4


def test_channels_are_made_to_measure(tmp_path):
    path = tmp_path / "a.wav"
    sound = spoken(1)
    with make_writer(path, Encoding("WAV"), 24_000, 2) as writer:
        sink = ConvertingSink(writer, SignalInfo(RATE, 1, RATE), 24_000, 2)
        sink.write(sound)
        sink.finish()
    read, rate = soundfile.read(path)
    assert (rate, read.shape[1]) == (24_000, 2)
    assert np.array_equal(read[:, 0], read[:, 1])


@pytest.mark.parametrize("loud", ["left", "right"])
def test_the_better_channel_is_the_one_with_the_voice(loud):
    voice = np.concatenate([np.zeros((1, RATE), np.float32), spoken(6)], axis=1)
    good, bad = voice + noise(-65, 7), 0.1 * voice + noise(-55, 7, seed=2)
    pair = np.concatenate([good, bad] if loud == "left" else [bad, good])
    source = ArraySource(pair, RATE)
    assert better_channel(source) == loud
    mono = MonoSource(source, "better")
    assert np.array_equal(np.concatenate(list(mono.blocks(999)), axis=1), good)
    assert mono.info.channels == 1
    mean = MonoSource(source, "mean").read(10, 20)
    assert mean == pytest.approx(pair[:, 10:20].mean(axis=0, keepdims=True), abs=1e-7)


def m4a(path, sound, rate=RATE):
    layout = "mono" if len(sound) == 1 else "stereo"
    with av.open(str(path), "w", format="mp4") as file:
        stream = file.add_stream("aac", rate=rate, layout=layout)
        frame = av.AudioFrame.from_ndarray(sound, format="fltp", layout=layout)
        frame.sample_rate, frame.pts = rate, 0
        for packet in stream.encode(frame):
            file.mux(packet)
        for packet in stream.encode(None):
            file.mux(packet)
    return path


@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize("rate", [44_100, 48_000])
def test_m4a_is_read(tmp_path, channels, rate):
    sound = spoken(3, rate, channels=channels)
    file = AudioFile(m4a(tmp_path / "a.m4a", sound, rate))
    assert (file.info.channels, file.info.sample_rate_hz) == (channels, rate)
    whole = np.concatenate(list(file.blocks(10_000)), axis=1)
    assert np.array_equal(file.read(30_000, 40_000), whole[:, 30_000:40_000])
    shared = min(whole.shape[1], sound.shape[1])
    assert shared >= sound.shape[1] - 1100
    assert level_db(whole[:, :shared] - sound[:, :shared]) < level_db(sound) - 12


@pytest.mark.parametrize(
    ("spoil", "message"),
    [
        (lambda data: data[:300], "a.m4a: "),
        (lambda data: data[: len(data) // 2], "a.m4a: "),
        (lambda data: b"\x00\x00\x00\x20ftypM4A " + bytes(100), "a.m4a: "),
    ],
)
def test_damaged_m4a_is_refused_in_a_line(tmp_path, spoil, message):
    path = m4a(tmp_path / "a.m4a", spoken(3))
    path.write_bytes(spoil(path.read_bytes()))
    with pytest.raises(UnreadableAudio, match=message):
        AudioFile(path)


@pytest.mark.parametrize(("depth", "expected_db"), [("16", -96.3), ("24", -149.2)])
def test_quantisation_is_as_small_as_it_can_be(tmp_path, depth, expected_db):
    """A quarter of a step squared with dither, a twelfth without (Lipshitz et al. 1992)."""
    sound = noise(-20, 3)
    path = encode(tmp_path / "a.wav", sound, depth=depth)
    error = soundfile.read(path, dtype="float64")[0] - sound[0].astype(np.float64)
    assert level_db(error) == pytest.approx(expected_db, abs=0.2)
    assert abs(error.mean()) < 0.02 * np.sqrt(np.mean(error**2))


def test_sixteen_bits_do_not_depend_on_blocks(tmp_path):
    sound = noise(-40, 1, channels=2)
    files = []
    for block in (1_000, 48_000):
        path = tmp_path / f"{block}.wav"
        with make_writer(path, Encoding("WAV", "16"), RATE, 2) as writer:
            for start in range(0, RATE, block):
                writer.write(sound[:, start : start + block])
        files.append(path.read_bytes())
    assert files[0] == files[1]
