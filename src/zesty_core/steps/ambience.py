"""Ambience: a little of a small room around a voice recorded too dry.

The room is made in ``dsp.room`` (Schroeder 1962; Jot & Chaigne 1991). Its sound is as loud as the
voice before it is mixed in. A stereo recording gets a wide room whose sides cancel in mono, so mono
listeners hear the same amount. The tail after the last sample is not kept.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from zesty_core.dsp.room import Room
from zesty_core.foundation.settings import number
from zesty_core.foundation.signal import Block, SignalInfo, joined
from zesty_core.measures.level_histogram import levels_db
from zesty_core.steps.base import Facts, Guide, Step, process_blocks
from zesty_core.steps.pictures import PicturedPassage, rounded

#: How much of the side is let into left and right.
_WIDTH = 0.6


@dataclass(frozen=True, kw_only=True)
class Ambience(Step):
    """Puts the voice into a small room."""

    type = "ambience"
    label = "Ambience"
    summary = "adds a small room"
    guide = Guide(
        "Puts a voice that was recorded too dry into a small room.",
        ("Decay 0.3 s, mix 5 %.",),
        "Listeners bring a room of their own. The last tail is cut where the recording ends.",
    )
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "Dry booth, a little room": {"decay_s": 0.3, "mix": 0.05},
        "Living room": {"decay_s": 0.5, "pre_delay_ms": 12.0, "mix": 0.1},
    }  # fmt: skip
    work_ns = 45.0

    decay_s: float = number(
        "Decay",
        unit="s",
        default=0.4,
        low=0.1,
        high=3,
        usual=(0.2, 0.6),
        increment=0.05,
        scale="log",
        help="How long the room rings until it is 60 dB down.",
    )
    pre_delay_ms: float = number(
        "Pre-delay",
        unit="ms",
        default=8.0,
        low=0,
        high=100,
        usual=(0, 20),
        increment=1,
        help="Pause before the room answers.",
    )
    mix: float = number(
        "Mix",
        default=0.08,
        low=0,
        high=1,
        usual=(0.03, 0.15),
        increment=0.01,
        help="Share of the room: 0 is none, 1 is the room alone.",
    )

    @property
    def is_neutral(self) -> bool:
        """None of the room."""
        return self.mix == 0.0

    @property
    def state_decay_s(self) -> float:
        """The room rings on; a fifth longer than its decay leaves 72 dB less."""
        return 1.2 * self.decay_s + self.pre_delay_ms / 1000.0

    def start(self, info: SignalInfo, facts: Facts) -> AmbienceProcessor:
        """New running state."""
        return AmbienceProcessor(self, info)

    def picture(self, passage: PicturedPassage) -> dict[str, Any]:
        """How a click rings on: level in hundredths of a second."""
        rate, channels = passage.sample_rate_hz, passage.before.shape[0]
        info = SignalInfo(rate, channels, round((self.decay_s + 0.2) * rate))
        click = np.zeros((channels, info.length_samples), np.float32)
        click[:, 0] = 1.0
        rung = joined(process_blocks(self.start(info, {}), [click]), channels)
        rung[:, 0] = 0.0
        levels = levels_db(rung, max(1, rate // 100))
        decay = {"bin_s": 0.01, "levels_db": rounded(levels - levels.max())}
        return super().picture(passage) | {"decay": decay}

    def _sentence(self) -> str:
        """In plain words."""
        return (
            f"Adds {self.mix * 100:g} % of a small room that rings for {self.decay_s:g} s, "
            f"{self.pre_delay_ms:g} ms after the voice."
        )


class AmbienceProcessor:
    """The room on one signal."""

    def __init__(self, step: Ambience, info: SignalInfo) -> None:
        rate = info.sample_rate_hz
        self._room = Room(step.decay_s, rate)
        self._loudness = 1.0 / _ring_norm(step.decay_s, rate)
        self._wet, self._dry = np.float32(step.mix), np.float32(1.0 - step.mix)
        self._waiting = np.zeros(round(step.pre_delay_ms / 1000.0 * rate))
        self._channels = info.channels
        self._voice_energy = self._room_energy = 0.0

    def push(self, block: Block) -> Block:
        """Add the room to a block."""
        mono = np.concatenate([self._waiting, block.mean(axis=0, dtype=np.float64)])
        now, self._waiting = mono[: block.shape[1]], mono[block.shape[1] :]
        middle, side = (part * self._loudness for part in self._room(now))
        if self._channels == 2:
            wet = np.stack([middle + _WIDTH * side, middle - _WIDTH * side]).astype(np.float32)
        else:
            wet = middle[None].astype(np.float32)
        out = self._dry * block + self._wet * wet
        self._voice_energy += float(np.square(self._dry * block, dtype=np.float64).sum())
        self._room_energy += float(np.square(self._wet * wet, dtype=np.float64).sum())
        return out

    def finish(self) -> Block:
        """Nothing is held back."""
        return np.zeros((self._channels, 0), np.float32)

    def report(self) -> dict[str, Any]:
        """How far the room lies below the voice."""
        if self._room_energy <= 0.0 or self._voice_energy <= 0.0:
            return {}
        return {"below_voice_db": float(10.0 * np.log10(self._voice_energy / self._room_energy))}


def _ring_norm(decay_s: float, rate: int) -> float:
    """Factor by which the room alone changes the level of noise."""
    impulse = np.zeros(round((decay_s + 0.1) * rate))
    impulse[0] = 1.0
    middle, _ = Room(decay_s, rate)(impulse)
    return float(np.sqrt(np.square(middle).sum()))
