"""Tags and cover of an incoming file, whatever container it is.

ID3 (MP3, WAV, AIFF), Vorbis comments (FLAC, OGG, Opus) and the atoms of M4A and MP4.
"""

from __future__ import annotations

import struct
from base64 import b64decode
from pathlib import Path
from typing import Any

from zesty_core.audio.tags import MOST_LETTERS, TAG_NAMES, Cover, Tags
from zesty_core.foundation.errors import BadInput

#: What the library raises besides its own error on damaged tags.
_DAMAGED = (
    ValueError, KeyError, IndexError, TypeError, AttributeError, EOFError, OSError, struct.error,
)  # fmt: skip
_ID3 = {
    "title": ("TIT2",),
    "artist": ("TPE1",),
    "album": ("TALB",),
    "genre": ("TCON",),
    "year": ("TDRC", "TYER"),
    "track": ("TRCK",),
}
_ATOMS = {
    "title": "\xa9nam",
    "artist": "\xa9ART",
    "album": "\xa9alb",
    "genre": "\xa9gen",
    "year": "\xa9day",
    "comment": "\xa9cmt",
}
_VORBIS = {
    "year": ("date", "year"),
    "track": ("tracknumber",),
    "comment": ("comment", "description"),
}


def read_tags(path: Path) -> tuple[Tags, Cover | None]:
    """Tags that hold anything, each as one line, and the cover; none of a file that has none.

    Damaged tags are as good as none: they must not keep a sound from being worked on.
    """
    import mutagen

    try:
        file: Any = mutagen.File(path)
        if file is None or file.tags is None:
            return {}, None
        given, pictures = _of(file.tags)
        pictures += [picture.data for picture in getattr(file, "pictures", [])]
    except (mutagen.MutagenError, *_DAMAGED):
        return {}, None
    return {n: line for n in TAG_NAMES if (line := _one_line(given.get(n)))}, _cover(pictures)


def _of(tags: Any) -> tuple[dict[str, Any], list[bytes]]:
    from mutagen.id3 import ID3
    from mutagen.mp4 import MP4Tags

    kind = type(tags)  # the library carries no types
    if issubclass(kind, ID3):
        given = {
            name: next((tags[key].text[0] for key in keys if key in tags), None)
            for name, keys in _ID3.items()
        }
        comments = [frame for frame in tags.getall("COMM") if not frame.desc.startswith("iTun")]
        given["comment"] = comments[0].text[0] if comments else None
        return given, [frame.data for frame in tags.getall("APIC")]
    if issubclass(kind, MP4Tags):
        given = {name: (tags.get(atom) or [None])[0] for name, atom in _ATOMS.items()}
        number, total = (tags.get("trkn") or [(0, 0)])[0]
        given["track"] = f"{number}/{total}" if number and total else str(number or "")
        return given, [bytes(picture) for picture in tags.get("covr") or []]
    given = {
        name: next((tags[key][0] for key in _VORBIS.get(name, (name,)) if key in tags), None)
        for name in TAG_NAMES
    }
    return given, _vorbis_pictures(tags)


def _vorbis_pictures(tags: Any) -> list[bytes]:
    from mutagen.flac import Picture

    make_picture: Any = Picture  # the library carries no types
    packed = tags.get("metadata_block_picture", [])
    return [make_picture(b64decode(text)).data for text in packed]


def _one_line(text: Any) -> str:
    """The text without line breaks and control characters, as long as tags may be."""
    words = " ".join(str(text or "").split())
    return "".join(c for c in words if c.isprintable())[:MOST_LETTERS].strip()


def _cover(pictures: list[bytes]) -> Cover | None:
    for data in pictures:
        try:
            return Cover.checked(data, "cover")
        except BadInput:
            continue
    return None
