"""Tags and chapter marks of a finished file, as other programs read them.

ID3 2.4 in MP3 and WAV, Vorbis comments in FLAC, OGG and Opus. Chapters are CHAP and CTOC frames (ID3v2
Chapter Frame Addendum 1.0) there, and CHAPTERxxx comments here (Vorbis's chapter extension).
"""

from __future__ import annotations

import hashlib
from base64 import b64encode
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Self

from zesty_core.audio.markers import Chapter
from zesty_core.foundation.errors import BadInput, BadSetting

#: Names of tags and the longest text each may have.
TAG_NAMES = ("title", "artist", "album", "genre", "year", "track", "comment")
MOST_LETTERS = 2000
_ID3_FRAMES = {
    "title": "TIT2",
    "artist": "TPE1",
    "album": "TALB",
    "genre": "TCON",
    "year": "TDRC",
    "track": "TRCK",
}
_VORBIS_NAMES = {"year": "DATE", "track": "TRACKNUMBER"}

Tags = dict[str, str]
_COVER_KINDS = {b"\xff\xd8\xff": "image/jpeg", b"\x89PNG\r\n\x1a\n": "image/png"}
_MOST_COVER_BYTES = 5_000_000
_FRONT_COVER = 3
#: Says that a chapter is found by its time, not by its byte.
_NO_OFFSET = 0xFFFFFFFF


@dataclass(frozen=True)
class Cover:
    """A picture that players show beside the sound: JPEG or PNG."""

    data: bytes
    kind: str

    @classmethod
    def checked(cls, data: bytes, name: str) -> Self:
        """The picture, or :class:`BadInput`."""
        if len(data) > _MOST_COVER_BYTES:
            limit = f"{_MOST_COVER_BYTES / 1e6:g} MB"
            raise BadInput(f"{name}: a cover must be at most {limit}", path="cover")
        kind = next((k for start, k in _COVER_KINDS.items() if data.startswith(start)), None)
        if kind is None:
            raise BadInput(f"{name}: a cover must be a JPEG or PNG picture", path="cover")
        return cls(data, kind)

    @property
    def sha256(self) -> str:
        """Hash of the picture."""
        return hashlib.sha256(self.data).hexdigest()


def checked_tags(given: dict[str, str]) -> Tags:
    """The tags that hold anything, or :class:`BadSetting`.

    Parameters
    ----------
    given : dict of str
        Words by tag.

    Returns
    -------
    tags : Tags
        Those that hold anything.

    Raises
    ------
    BadSetting
        For a tag there is not, or words it cannot hold.
    """
    for name, text in given.items():
        if name not in TAG_NAMES:
            raise BadSetting(f"tags.{name}", text, f"is not one of {', '.join(TAG_NAMES)}")
        if len(text) > MOST_LETTERS or not text.isprintable():
            raise BadSetting(
                f"tags.{name}", text[:40], f"must be one line of up to {MOST_LETTERS} letters"
            )
    return {name: text for name, text in given.items() if text}


def write_tags(
    path: Path,
    container: str,
    tags: Tags,
    cover: Cover | None = None,
    chapters: Sequence[Chapter] = (),
) -> None:
    """Put tags into a finished file; RF64, the long form of WAV, has no common place for them.

    Parameters
    ----------
    path : Path
        The finished file, changed in place.
    container : str
        ``wav``, ``flac``, ``mp3``, ``ogg`` or ``m4a``.
    tags : Tags
        What to write.
    cover : Cover, optional
        A picture.
    chapters : sequence of Chapter, optional
        In order of time.
    """
    if container in ("MP3", "WAV"):
        _write_id3(path, container, tags, cover, chapters)
    elif container != "RF64":
        _write_vorbis(path, container, tags, cover, chapters)


def _write_id3(
    path: Path, container: str, tags: Tags, cover: Cover | None, chapters: Sequence[Chapter]
) -> None:
    from mutagen import id3, mp3, wave

    # The library's tag frames are made at run time, unknown to the type checker.
    frames: Any = id3
    kinds: dict[str, Any] = {"MP3": mp3.MP3, "WAV": wave.WAVE}
    file = kinds[container](path)
    if file.tags is None:
        file.add_tags()
    for name, text in tags.items():
        if name == "comment":
            file.tags.add(frames.COMM(encoding=3, lang="eng", desc="", text=text))
        else:
            file.tags.add(getattr(frames, _ID3_FRAMES[name])(encoding=3, text=text))
    if cover:
        picture = {"mime": cover.kind, "type": _FRONT_COVER, "desc": "", "data": cover.data}
        file.tags.add(frames.APIC(encoding=3, **picture))
    for frame in _chapter_frames(frames, chapters):
        file.tags.add(frame)
    file.save()


def _chapter_frames(frames: Any, chapters: Sequence[Chapter]) -> list[Any]:
    """A frame for each chapter, and the table of contents that lists them in order.

    Players take them in the order of the file. The library writes the shorter frames first, then by
    their ids, so each holds as much private data as makes all of one length.
    """
    if not chapters:
        return []
    names = [f"chp{number:04}" for number in range(len(chapters))]
    longest = max(len(chapter.name.encode()) for chapter in chapters)
    made = [
        frames.CHAP(
            element_id=name,
            start_time=round(1000 * chapter.start_s),
            end_time=round(1000 * chapter.end_s),
            start_offset=_NO_OFFSET,
            end_offset=_NO_OFFSET,
            sub_frames=[
                frames.TIT2(encoding=3, text=chapter.name),
                frames.PRIV(owner="filler", data=bytes(longest - len(chapter.name.encode()))),
            ],
        )
        for name, chapter in zip(names, chapters, strict=True)
    ]
    top_level_in_order = frames.CTOCFlags.TOP_LEVEL | frames.CTOCFlags.ORDERED
    contents = frames.CTOC(
        element_id="toc", flags=top_level_in_order, child_element_ids=names, sub_frames=[]
    )
    return [*made, contents]


def _write_vorbis(
    path: Path, container: str, tags: Tags, cover: Cover | None, chapters: Sequence[Chapter]
) -> None:
    from mutagen.flac import FLAC, Picture
    from mutagen.oggopus import OggOpus
    from mutagen.oggvorbis import OggVorbis

    kinds: dict[str, Any] = {"FLAC": FLAC, "OGG": OggVorbis, "OPUS": OggOpus}
    file = kinds[container](path)
    for name, text in tags.items():
        file[_VORBIS_NAMES.get(name, name.upper())] = text
    for number, chapter in enumerate(chapters, 1):
        file[f"CHAPTER{number:03}"] = _clock(chapter.start_s)
        file[f"CHAPTER{number:03}NAME"] = chapter.name
    if cover:
        make_picture: Any = Picture  # the library carries no types
        picture = make_picture()
        picture.type, picture.mime, picture.data = _FRONT_COVER, cover.kind, cover.data
        if container == "FLAC":
            file.add_picture(picture)
        else:
            file["METADATA_BLOCK_PICTURE"] = b64encode(picture.write()).decode("ascii")
    file.save()


def _clock(time_s: float) -> str:
    """Time as HH:MM:SS.mmm."""
    ms = round(1000 * time_s)
    return f"{ms // 3_600_000:02}:{ms // 60_000 % 60:02}:{ms // 1000 % 60:02}.{ms % 1000:03}"
