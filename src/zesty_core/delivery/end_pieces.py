"""Intro and outro of a delivery: joined to the voice before its final level is set.

The piece fades where it overlaps the voice; the voice does not fade. Its gain sets its integrated
loudness (ITU-R BS.1770) relative to that of the voice. Limiter and final level follow the join, so that
the whole file meets its target.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Self

import numpy as np

from zesty_core.audio.markers import Chapter
from zesty_core.audio.reader import AudioFile
from zesty_core.audio.resample import resampled
from zesty_core.chain.runner import Sink
from zesty_core.delivery.ending import DOUBLED_LU
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import Block, ReadSource, SignalInfo, Source, Span
from zesty_core.foundation.units import db_to_factor, seconds_to_samples
from zesty_core.measures.stream import measure

LONGEST_PIECE_S = 180.0
LONGEST_OVERLAP_S = 30.0
LEVEL_LU = (-30.0, 12.0)
_LEAST_FADE_S = 0.01
_LOUDNESS = frozenset({"loudness"})


@dataclass(frozen=True)
class EndPiece:
    """A sound file as intro or outro. ``level_lu`` is its loudness relative to the voice."""

    path: Path
    name: str
    overlap_s: float = 0.0
    level_lu: float = 0.0

    @classmethod
    def checked(cls, path: Path, name: str, overlap_s: float, level_lu: float) -> Self:
        """The piece, or :class:`BadInput` for a file that does not serve or a setting out of range."""
        if not 0.0 <= overlap_s <= LONGEST_OVERLAP_S:
            raise BadInput(
                f"{name}: must overlap the voice by 0 to {LONGEST_OVERLAP_S:.0f} s, got {overlap_s:g} s"
            )
        low, high = LEVEL_LU
        if not low <= level_lu <= high:
            raise BadInput(
                f"{name}: level must be {low:g} to {high:+g} LU relative to the voice, "
                f"got {level_lu:+g} LU"
            )
        duration_s = AudioFile(path, name).info.duration_s
        if duration_s > LONGEST_PIECE_S:
            raise BadInput(
                f"{name}: lasts {duration_s:.0f} s; an intro or outro lasts up to "
                f"{LONGEST_PIECE_S:.0f} s"
            )
        return cls(path, name, overlap_s, level_lu)

    @property
    def sha256(self) -> str:
        """Hash of the file."""
        with self.path.open("rb") as file:
            return hashlib.file_digest(file, "sha256").hexdigest()

    def mark(self) -> list[Any]:
        """Stands for it in the mark of a delivery."""
        return [self.sha256, self.overlap_s, self.level_lu]


@dataclass(frozen=True)
class JoinedPiece:
    """A joined piece with its gain, for the receipt; 0 dB where a loudness is undefined."""

    place: str
    piece: EndPiece
    gain_db: float

    def as_json(self) -> dict[str, Any]:
        """JSON object."""
        return {
            "place": self.place,
            "name": self.piece.name,
            "sha256": self.piece.sha256,
            "overlap_s": self.piece.overlap_s,
            "level_lu": self.piece.level_lu,
            "gain_db": round(self.gain_db, 2),
        }


class JoinedSource(ReadSource):
    """A voice with an intro before it, an outro behind it, or both."""

    def __init__(
        self,
        voice: Source,
        channels: int,
        voice_lufs: float | None,
        intro: EndPiece | None,
        outro: EndPiece | None,
    ) -> None:
        self._voice = voice
        rate, length = voice.info.sample_rate_hz, voice.info.length_samples
        if voice_lufs is not None and channels > voice.info.channels:
            voice_lufs += DOUBLED_LU
        self.pieces: list[JoinedPiece] = []
        self._placed: list[tuple[int, Block]] = []
        self.voice_start = 0
        end = length
        if intro:
            sound = self._gained("intro", intro, rate, channels, voice_lufs)
            overlap = min(seconds_to_samples(intro.overlap_s, rate), sound.shape[1], length)
            self.voice_start = sound.shape[1] - overlap
            self._placed.append((0, sound * _fade_out(sound.shape[1], overlap, rate)))
            end += self.voice_start
        if outro:
            sound = self._gained("outro", outro, rate, channels, voice_lufs)
            overlap = min(seconds_to_samples(outro.overlap_s, rate), sound.shape[1], length)
            fade = _fade_out(sound.shape[1], overlap, rate)[::-1]
            self._placed.append((end - overlap, sound * fade))
            end += sound.shape[1] - overlap
        self._info = SignalInfo(rate, channels, max(end, self.voice_start + length))

    def _gained(
        self, place: str, piece: EndPiece, rate: int, channels: int, voice_lufs: float | None
    ) -> Block:
        sound = _read(piece, rate, channels)
        own = measure([sound], SignalInfo(rate, *sound.shape), parts=_LOUDNESS).integrated_lufs
        gain_db = 0.0
        if own is not None and voice_lufs is not None:
            gain_db = voice_lufs + piece.level_lu - own
        self.pieces.append(JoinedPiece(place, piece, gain_db))
        return sound * np.float32(db_to_factor(gain_db))

    @property
    def info(self) -> SignalInfo:
        """Rate, channels and total length."""
        return self._info

    def read(self, start: int, stop: int) -> Block:
        """Samples ``start`` to ``stop``, clipped to what is there."""
        start, stop = max(0, start), min(stop, self._info.length_samples)
        out = np.zeros((self._info.channels, max(0, stop - start)), np.float32)
        length = self._voice.info.length_samples
        low, high = max(start, self.voice_start), min(stop, self.voice_start + length)
        if high > low:
            # A mono voice goes to all channels.
            own = self._voice.read(low - self.voice_start, high - self.voice_start)
            out[:, low - start : high - start] = own
        for at, sound in self._placed:
            low, high = max(start, at), min(stop, at + sound.shape[1])
            if high > low:
                out[:, low - start : high - start] += sound[:, low - at : high - at]
        return out

    def tone(self, tone: RoomTone | None) -> RoomTone | None:
        """The voice's room tone shifted to the joined times; None where a piece overlaps it."""
        if tone is None or not tone.spans:
            return tone
        rate = self._info.sample_rate_hz
        shift_s = self.voice_start / rate
        spans = tuple(Span(s.start_s + shift_s, s.end_s + shift_s) for s in tone.spans)
        covered = [(at / rate, (at + sound.shape[1]) / rate) for at, sound in self._placed]
        if any(s.start_s < end and s.end_s > start for s in spans for start, end in covered):
            return None
        return RoomTone(spans=spans)

    def voice_sink(self, sink: Sink) -> Sink:
        """A sink that passes on only the voice's stretch, in mono where the voice is mono."""
        window = _Window(sink, self.voice_start, self._voice.info)
        return window.push

    def chapters(self, chapters: tuple[Chapter, ...]) -> tuple[Chapter, ...]:
        """Chapters shifted to the joined times; the first starts and the last ends with the file."""
        if not chapters:
            return ()
        moved = [
            chapter.later(self.voice_start / self._info.sample_rate_hz) for chapter in chapters
        ]
        moved[0] = Chapter(0.0, moved[0].end_s, moved[0].name)
        moved[-1] = Chapter(moved[-1].start_s, self._info.duration_s, moved[-1].name)
        return tuple(moved)


class _Window:
    """Passes on a window of the stream."""

    def __init__(self, sink: Sink, start: int, info: SignalInfo) -> None:
        self._sink, self._channels = sink, info.channels
        self._start, self._stop = start, start + info.length_samples
        self._at = 0

    def push(self, block: Block) -> None:
        low, high = max(self._start, self._at), min(self._stop, self._at + block.shape[1])
        if high > low:
            own = block[:, low - self._at : high - self._at]
            if len(own) > self._channels:
                own = own.mean(axis=0, keepdims=True, dtype=np.float32)
            self._sink(own)
        self._at += block.shape[1]


def _read(piece: EndPiece, rate: int, channels: int) -> Block:
    source = AudioFile(piece.path, piece.name)
    sound = source.read(0, source.info.length_samples)
    if len(sound) != channels:
        mean = sound.mean(axis=0, keepdims=True, dtype=np.float32)
        sound = np.repeat(mean, channels, axis=0)
    own_rate = source.info.sample_rate_hz
    return sound if own_rate == rate else resampled(sound, own_rate, rate)


def _fade_out(length: int, overlap: int, rate: int) -> Block:
    """Gain of 1 that falls to 0 over the overlap, at least over 10 ms."""
    fade = min(length, max(overlap, seconds_to_samples(_LEAST_FADE_S, rate)))
    gain = np.ones(length, np.float32)
    gain[length - fade :] = 0.5 + 0.5 * np.cos(np.pi * (np.arange(fade) + 0.5) / fade)
    return gain
