"""Chapter marks of finished files, read back by the media library, which did not write them.

ID3v2 Chapter Frame Addendum 1.0 (CHAP, CTOC) in MP3; Vorbis chapter extension in the others.
"""

from __future__ import annotations

import av
import mutagen
import pytest

from tests.made_sound import PICTURE, RATE, spoken
from zesty_core.audio.encoding import Encoding, make_writer
from zesty_core.audio.markers import Chapter
from zesty_core.audio.tags import Cover

CHAPTERS = [
    Chapter(0.0, 1.25, "Low water"),
    Chapter(1.25, 3.5, "The warden’s dinghy – ünïted"),
    Chapter(3.5, 6.0, "Reeds"),
]


def written(tmp_path, container, **more):
    path = tmp_path / f"made.{container.lower()}"
    with make_writer(path, Encoding(container), RATE, 1, chapters=CHAPTERS, **more) as writer:
        writer.write(spoken(6.0))
    return path


@pytest.mark.parametrize("container", ["MP3", "OGG", "OPUS", "FLAC"])
def test_players_find_the_chapters(tmp_path, container):
    tags = {"title": "Tides", "artist": "Wren"}
    path = written(tmp_path, container, tags=tags, cover=Cover(PICTURE, "image/png"))
    with av.open(str(path)) as file:
        found = [
            (float(c["start"] * c["time_base"]), c["metadata"].get("title"))
            for c in file.chapters()
        ]
    assert found == [(pytest.approx(c.start_s, abs=0.001), c.name) for c in CHAPTERS]
    assert str(mutagen.File(path, easy=True)["title"][0]) == "Tides"


def test_the_ends_of_mp3_chapters_are_there_and_the_contents_list_them_in_order(tmp_path):
    path = written(tmp_path, "MP3")
    with av.open(str(path)) as file:
        ends = [float(c["end"] * c["time_base"]) for c in file.chapters()]
    assert ends == [pytest.approx(c.end_s, abs=0.001) for c in CHAPTERS]
    [contents] = mutagen.File(path).tags.getall("CTOC")
    assert contents.child_element_ids == ["chp0000", "chp0001", "chp0002"]
