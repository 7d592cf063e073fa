"""Tags and covers of incoming files, in whatever container they come."""

from __future__ import annotations

import av
import mutagen
import numpy as np
import pytest
from mutagen.mp4 import MP4, MP4Cover

from tests.made_sound import PICTURE, RATE, sine, write
from zesty_core.audio.encoding import Encoding, make_writer
from zesty_core.audio.tag_reader import read_tags
from zesty_core.audio.tags import Cover

TAGS = {
    "title": "Ebb tide",
    "artist": "The warden",
    "album": "Pellanby Holm",
    "genre": "Speech",
    "year": "2031",
    "track": "3/9",
    "comment": "first take",
}


@pytest.fixture
def tone():
    return sine(-20, 1)


@pytest.mark.parametrize("container", ["WAV", "FLAC", "MP3", "OGG", "OPUS"])
def test_what_is_written_is_read(tmp_path, tone, container):
    path = tmp_path / f"take.{container.lower()}"
    cover = Cover.checked(PICTURE, "cover")
    with make_writer(path, Encoding(container), RATE, 1, tags=TAGS, cover=cover) as file:
        file.write(tone)
    assert read_tags(path) == (TAGS, cover)


def test_m4a_as_a_telephone_writes_it(tmp_path, tone):
    path = tmp_path / "take.m4a"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("aac", rate=RATE, layout="mono")
        frame = av.AudioFrame.from_ndarray(np.float32(tone), format="fltp", layout="mono")
        frame.sample_rate = RATE
        for packet in [*stream.encode(frame), *stream.encode(None)]:
            out.mux(packet)
    file = MP4(path)
    file["\xa9nam"], file["\xa9ART"], file["trkn"] = "Ebb tide", "The warden", [(3, 9)]
    file["\xa9cmt"] = "two\nlines"
    file["covr"] = [MP4Cover(PICTURE, imageformat=MP4Cover.FORMAT_PNG)]
    file.save()
    tags, cover = read_tags(path)
    assert tags == {
        "title": "Ebb tide", "artist": "The warden", "track": "3/9", "comment": "two lines",
    }  # fmt: skip
    assert cover is not None
    assert cover.data == PICTURE


@pytest.mark.parametrize("damage", ["none", "cut", "long", "no picture"])
def test_odd_tags_keep_no_sound_from_being_worked_on(tmp_path, tone, damage):
    path = tmp_path / "take.mp3"
    tags = {} if damage == "none" else {"title": "T" * 2000}
    with make_writer(path, Encoding("MP3"), RATE, 1, tags=tags) as file:
        file.write(tone)
    if damage == "cut":
        path.write_bytes(path.read_bytes()[:700])
    if damage == "long":
        file = mutagen.File(path)
        file.tags["TIT2"].text = ["long \x07 \t" + "x" * 5000]
        file.save()
    if damage == "no picture":
        file = mutagen.File(path)
        file.tags.add(mutagen.id3.APIC(encoding=3, mime="image/png", type=3, desc="", data=b"?"))
        file.save()
    found, cover = read_tags(path)
    assert cover is None
    assert all(text.isprintable() and len(text) <= 2000 for text in found.values())
    assert read_tags(write(tmp_path / "plain.wav", tone)) == ({}, None)
