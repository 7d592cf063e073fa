"""Room: the late part of a room's reverberation goes down."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from zesty_core.dsp.fixed_hops import LONGEST_HOP_S, hop_samples
from zesty_core.dsp.late_reverberation import (
    AROUND,
    DRY_DB,
    OVERLAP,
    LateReverberation,
    frames_of,
    sound_of,
)
from zesty_core.dsp.spectral import hann
from zesty_core.foundation.settings import number
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.foundation.units import db_to_factor
from zesty_core.steps.base import Facts, Guide, Step
from zesty_core.steps.repair import PIECE_HOPS

#: Frames of a piece: one every 8 ms, five in four hops.
_FRAMES = PIECE_HOPS * 5 // 4


@dataclass(frozen=True, kw_only=True)
class Room(Step):
    """Turns a room's reverberation down."""

    type = "room"
    label = "Room"
    summary = "turns reverberation down"
    guide = Guide(
        "Takes out the tail that a room adds to each sound and that makes a voice distant. It is "
        "foretold from the sound before it; a dry voice foretells next to nothing and stays as it is.",
        (
            "Behind noise reduction, before gate and compressor, which lift tails.",
            "20 dB for as dry as it gets; 8 dB keeps a hint of the room.",
        ),
        "Early reflections, the boxy colour of a near wall, stay: an EQ bell helps there. Where a "
        "quarter of the sound is room, words stay blurred: hang blankets, come nearer, record again.",
    )
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "A hint of room stays": {"depth_db": 8.0}
    }
    work_ns = 220.0

    depth_db: float = number(
        "Depth",
        unit="dB",
        default=20.0,
        low=1,
        high=40,
        usual=(8, 24),
        increment=1,
        help="Reverberation goes down by so much at most.",
    )

    @property
    def state_decay_s(self) -> float:
        """Pieces before this one."""
        return (AROUND + 2) * PIECE_HOPS * LONGEST_HOP_S

    @property
    def look_ahead_s(self) -> float:
        """Pieces behind this one."""
        return self.state_decay_s

    def frame_samples(self, info: SignalInfo) -> int:
        """Pieces."""
        return PIECE_HOPS * hop_samples(info.sample_rate_hz)

    def start(self, info: SignalInfo, facts: Facts) -> RoomProcessor:
        """New running state."""
        return RoomProcessor(self, info)

    def _sentence(self) -> str:
        """In plain words."""
        return f"Turns the room's reverberation down by up to {self.depth_db:g} dB."


class RoomProcessor:
    """The step on one signal, aligned with its input."""

    def __init__(self, step: Room, info: SignalInfo) -> None:
        self._piece = step.frame_samples(info)
        self._hop = self._piece // _FRAMES
        size = OVERLAP * self._hop
        self._window = np.sqrt(hann(size)).astype(np.float32)
        self._most = 1.0 - db_to_factor(-step.depth_db)
        bins = size // 2 + 1
        bin_hz = info.sample_rate_hz / size
        self._late = LateReverberation(info.channels, bins, bin_hz, _FRAMES)
        self._lead = (OVERLAP - 1) * self._hop
        # Frames reach back before the first sample.
        self._held: Block = np.zeros((info.channels, self._lead), np.float32)
        self._plain: Block = self._held.copy()
        self._tail: Block = np.zeros((info.channels, self._lead), np.float32)
        self._is_touched = False
        self._to_skip, self._taken, self._given = self._lead, 0, 0

    def push(self, block: Block) -> Block:
        """What no later sample changes."""
        self._taken += block.shape[1]
        self._held = np.concatenate([self._held, block], axis=1)
        self._plain = np.concatenate([self._plain, block], axis=1)
        return self._give(self._ready())

    def finish(self) -> Block:
        """The rest."""
        channels, left = len(self._held), self._taken - self._given
        missing = -(self._held.shape[1] - self._lead) % self._piece + self._piece
        silence = np.zeros((channels, missing), np.float32)
        self._held = np.concatenate([self._held, silence], axis=1)
        self._plain = np.concatenate([self._plain, silence], axis=1)
        made = self._ready()
        made += [self._sound(piece) for piece in self._late.finish(self._most)]
        return self._give(made)[:, :left]

    def _ready(self) -> list[Block]:
        """Sound of all pieces that are decided."""
        made = []
        while self._held.shape[1] >= self._lead + self._piece:
            span = self._held[:, : self._lead + self._piece]
            spectra = np.stack([frames_of(row, self._window, self._hop) for row in span])
            self._held = self._held[:, self._piece :]
            piece = self._late.push(spectra, self._most)
            if piece is not None:
                made.append(self._sound(piece))
        return made

    def _sound(self, piece: tuple[np.ndarray, bool]) -> Block:
        """The samples that end with this piece's last frame but three."""
        spectra, touched = piece
        whole: Block = np.zeros((len(spectra), self._piece + self._lead), np.float32)
        whole[:, : self._lead] = self._tail
        for channel, frames in enumerate(spectra):
            rows = sound_of(frames, self._window) * np.float32(0.5)
            for part in range(OVERLAP):
                # Every fourth frame lies end to end.
                some = rows[part::OVERLAP].reshape(-1)
                start = part * self._hop
                whole[channel, start : start + len(some)] += some
        self._tail = whole[:, self._piece :].copy()
        plain, self._plain = self._plain[:, : self._piece], self._plain[:, self._piece :]
        keeps, self._is_touched = not (touched or self._is_touched), touched
        return plain if keeps else whole[:, : self._piece]

    def _give(self, made: list[Block]) -> Block:
        out = np.concatenate(made, axis=1) if made else self._held[:, :0]
        gone = min(self._to_skip, out.shape[1])
        self._to_skip -= gone
        out = out[:, gone:]
        self._given += out.shape[1]
        return out

    def report(self) -> dict[str, Any]:
        """How much of the sound was foretold as room."""
        shares = self._late.shares_db
        if not shares:
            return {"room_db": None}
        share_db = float(np.median(shares))
        dry = "left as it is: next to no reverberation was found"
        return {"room_db": round(share_db, 1), "note": dry if share_db < DRY_DB else None}
