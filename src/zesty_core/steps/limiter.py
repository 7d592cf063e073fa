"""Limiter: a ceiling that nothing passes, between the samples either.

The gain that brings every local true peak (ITU-R BS.1770-5 Annex 2, see ``dsp.oversampling``) to the
ceiling is held over the look-ahead, released by a one-pole and averaged over the look-ahead, so it
arrives before the peak and never jumps. Long reduction releases more slowly. A second, identical
stage catches the hundredths of a dB that a moving gain adds between samples.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.extremes import extremes
from zesty_core.dsp.oversampling import (
    LEFT,
    TAPS,
    may_pass,
    oversampling,
    peaks_between,
    phases,
    reach,
)
from zesty_core.foundation.settings import number
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.foundation.units import db_to_factor, factor_to_db
from zesty_core.runtime.kernel import kernel
from zesty_core.steps.base import Facts, Guide, Step
from zesty_core.steps.pictures import PicturedPassage, work_over_time
from zesty_core.steps.step_advice import Trait

#: Aim below the ceiling by this much, so that other true-peak meters agree.
_MARGIN_DB = 0.04
_SUSTAINED_S = 0.5
_SLOWEST = 3.0
_GROUP = 64
_ACTIVE_FACTOR = 10.0 ** (-0.1 / 20.0)


@dataclass(frozen=True, kw_only=True)
class Limiter(Step):
    """Keeps every peak under a ceiling."""

    type = "limiter"
    label = "Limiter"
    summary = "a ceiling nothing passes"
    guide = Guide(
        "A ceiling that nothing passes, between the samples either. Put it last but for loudness.",
        ("Ceiling -1 dBTP; -3 dBTP where a delivery asks for it.",),
        "More than 4 dB of work is heard: compress more, or ask for less loudness.",
    )
    traits = frozenset({Trait.HOLDS_CEILING})
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "Podcast, -1 dBTP": {"ceiling_dbtp": -1.0},
        "Audiobook, -3 dBTP": {"ceiling_dbtp": -3.0, "release_ms": 120.0},
    }  # fmt: skip
    work_ns = 3.0

    ceiling_dbtp: float = number(
        "Ceiling",
        unit="dBTP",
        default=-1.0,
        low=-30,
        high=0,
        usual=(-3, -1),
        help="True peak that nothing passes.",
    )
    input_gain_db: float = number(
        "Gain before",
        unit="dB",
        default=0.0,
        low=-24,
        high=24,
        usual=(0, 4),
        help="Drives the limiter. More than 4 dB is heard.",
    )
    release_ms: float = number(
        "Release",
        unit="ms",
        default=80.0,
        low=1,
        high=2000,
        usual=(40, 200),
        increment=5,
        scale="log",
        help="How fast it lets go; slower by itself after long reduction.",
    )
    look_ahead_ms: float = number(
        "Look-ahead",
        unit="ms",
        default=3.0,
        low=0.5,
        high=20,
        usual=(1, 5),
        increment=0.5,
        help="How early it begins to turn down before a peak.",
    )

    @property
    def state_decay_s(self) -> float:
        """The average that slows the release, and the release at its slowest."""
        return 3.0 * _SUSTAINED_S + 3.0 * (1.0 + _SLOWEST) * self.release_ms / 1000.0

    @property
    def look_ahead_s(self) -> float:
        """Both stages."""
        return 2.0 * self.look_ahead_ms / 1000.0 + 0.01

    def start(self, info: SignalInfo, facts: Facts) -> LimiterProcessor:
        """New running state."""
        return LimiterProcessor(self, info)

    def curve_dbfs(self, facts: Facts, in_dbfs: NDArray[np.float64]) -> NDArray[np.float64] | None:
        """Of peaks: straight up to the ceiling."""
        return np.minimum(in_dbfs + self.input_gain_db, self.ceiling_dbtp)

    @classmethod
    def warm_up_cases(cls) -> tuple[Limiter, ...]:
        """One that finds something to do in any sound."""
        return (cls(ceiling_dbtp=-6.0),)

    @property
    def peak_ceiling_dbtp(self) -> float:
        """Its ceiling."""
        return self.ceiling_dbtp

    def without_makeup(self, passage: PicturedPassage) -> Block:
        """What came out, less the gain before the limiter."""
        return passage.after * np.float32(db_to_factor(-self.input_gain_db))

    def work(self, passage: PicturedPassage) -> list[list[float | None]]:
        """Change of the peaks."""
        return [work_over_time(passage.before, self.without_makeup(passage), peaks=True)]

    def _sentence(self) -> str:
        """In plain words."""
        drive = f"Adds {self.input_gain_db:g} dB and holds" if self.input_gain_db else "Holds"
        return f"{drive} every peak, between the samples too, under {self.ceiling_dbtp:g} dBTP."


@kernel
def _below(peak: Block, first: int, ceiling: float) -> int:
    """How many peaks from ``first`` on lie at or below the ceiling."""
    n = first
    # Whole groups first: their maximum is found without a branch per sample.
    while n + _GROUP <= peak.shape[0]:
        if extremes(peak[n : n + _GROUP])[1] > ceiling:
            break
        n += _GROUP
    while n < peak.shape[0] and peak[n] <= ceiling:
        n += 1
    return n - first


#: Places in a stage's state: previous local peak, released gain, sum of the ring, slow average of the
#: reduction, position in the rings, samples since the last peak over the ceiling, smallest gain,
#: samples turned down, samples in all, samples of idleness.
_PREVIOUS, _RELEASED, _SUM, _SLOW, _POSITION = 0, 1, 2, 3, 4
_SINCE, _SMALLEST, _TURNED_DOWN, _SAMPLES, _IDLE = 5, 6, 7, 8, 9


@kernel
def _gains(  # noqa: PLR0915 - one loop, so that its state stays in registers
    peak: Block,
    ceiling: float,
    coefficients: NDArray[np.float64],
    state: NDArray[np.float64],
    held: NDArray[np.float64],
    ring: NDArray[np.float64],
    out: Block,
) -> None:
    """Gain for each local peak; ``out[n]`` belongs ``len(ring) - 1`` samples before ``peak[n]``.

    ``held`` and ``ring`` hold the last wanted gains and the last released reductions.
    """
    width = ring.shape[0]
    release, sustained = coefficients
    previous, released, total, slow = state[_PREVIOUS], state[_RELEASED], state[_SUM], state[_SLOW]
    position, since = int(state[_POSITION]), int(state[_SINCE])
    smallest, turned_down, idle = state[_SMALLEST], 0, int(state[_IDLE])
    length = peak.shape[0]
    n = 0
    while n < length:
        if idle >= width and previous <= ceiling:
            # Nothing is held and nothing released: on to the next peak.
            run = _below(peak, n, ceiling)
            out[n : n + run] = np.float32(1.0)
            if run > 0:
                previous = np.float64(peak[n + run - 1])
                position = (position + run) % width
                since += run
                idle += run
                n += run
                continue
        p = np.float64(peak[n])
        # A point between two samples is turned down by the gains on both sides.
        local = p if p > previous else previous
        previous = p
        wanted = 1.0
        since += 1
        if local > ceiling:
            wanted = ceiling / local
            since = 0
        held[position] = wanted
        if since > 2 * width and released > 0.999999:
            # Idle: exactly one, so that what is not limited stays bit for bit.
            released, total = 1.0, 0.0
            ring[position] = 0.0
            position = position + 1 if position + 1 < width else 0
            idle += 1
            out[n] = np.float32(1.0)
            n += 1
            continue
        if idle > 0:
            # One power, however the idle samples were cut into blocks.
            slow *= sustained**idle
            idle = 0
        lowest = 1.0
        if since < width:
            for k in range(width):
                lowest = held[k] if held[k] < lowest else lowest
        if lowest < released:
            released = lowest
        else:
            coefficient = release / (1.0 + _SLOWEST * min(1.0, slow / 0.3))
            released += coefficient * (lowest - released)
        reduction = 1.0 - released
        slow = sustained * slow + (1.0 - sustained) * reduction
        total += reduction - ring[position]
        ring[position] = reduction
        position = position + 1 if position + 1 < width else 0
        gain = 1.0 - max(0.0, total) / width
        smallest = gain if gain < smallest else smallest
        turned_down += 1 if gain < _ACTIVE_FACTOR else 0
        out[n] = np.float32(gain)
        n += 1
    state[_PREVIOUS], state[_RELEASED], state[_SUM], state[_SLOW] = previous, released, total, slow
    state[_POSITION], state[_SINCE], state[_SMALLEST], state[_IDLE] = (
        position,
        since,
        smallest,
        idle,
    )
    state[_TURNED_DOWN] += turned_down
    state[_SAMPLES] += length


class _Stage:
    """One limiting stage; output lags input by ``latency`` samples."""

    def __init__(self, step: Limiter, info: SignalInfo) -> None:
        rate = info.sample_rate_hz
        factor = oversampling(rate)
        self._taps, self._reach = phases(factor), reach(factor)
        self._ceiling = db_to_factor(step.ceiling_dbtp - _MARGIN_DB)
        width = max(8, round(step.look_ahead_ms / 1000.0 * rate))
        self.latency = width - 1 + TAPS - 1 - LEFT
        self._coefficients = np.array(
            [
                1.0 - math.exp(-1.0 / (step.release_ms / 1000.0 * rate)),
                math.exp(-1.0 / (_SUSTAINED_S * rate)),
            ]
        )
        self.state = np.zeros(10)
        self.state[_RELEASED] = self.state[_SMALLEST] = 1.0
        self.state[_SINCE] = 3.0 * width
        self._held, self._ring = np.ones(width), np.zeros(width)
        # The samples before the block: context of its peaks, and what is still to be given.
        self._before = np.zeros((info.channels, max(self.latency, TAPS - 1)), np.float32)

    def __call__(self, block: Block) -> Block:
        length = block.shape[1]
        held = self._before.shape[1]
        line = np.concatenate([self._before, block], axis=1)
        self._before = line[:, length:].copy()
        heard, delayed = line[:, held - (TAPS - 1) :], line[:, held - self.latency :][:, :length]
        if self._rests() and not any(may_pass(x, self._reach, self._ceiling) for x in heard):
            self._rest(length)
            return delayed
        peak = np.empty((block.shape[0], length), np.float32)
        for channel, samples in enumerate(heard):
            peaks_between(samples, self._taps, self._reach, self._ceiling, peak[channel])
        gain = np.empty(length, np.float32)
        _gains(
            peak.max(axis=0),
            self._ceiling,
            self._coefficients,
            self.state,
            self._held,
            self._ring,
            gain,
        )
        limited: Block = delayed * gain
        return limited

    def _rests(self) -> bool:
        """Whether nothing is held, released or just about to be turned down."""
        return bool(self.state[_PREVIOUS] <= self._ceiling and self.state[_IDLE] >= len(self._ring))

    def _rest(self, samples: int) -> None:
        """Go on by so many samples in which nothing can pass the ceiling."""
        self.state[_POSITION] = (self.state[_POSITION] + samples) % len(self._ring)
        self.state[[_SINCE, _SAMPLES, _IDLE]] += samples


class LimiterProcessor:
    """Both stages on one signal, aligned with the input; channels share one gain."""

    def __init__(self, step: Limiter, info: SignalInfo) -> None:
        self._factor = np.float32(db_to_factor(step.input_gain_db))
        self._stages = [_Stage(step, info), _Stage(step, info)]
        self._latency = sum(s.latency for s in self._stages)
        self._to_drop = self._latency
        self._channels = info.channels

    def push(self, block: Block) -> Block:
        """Limit a block; the first samples come out once the look-ahead is filled."""
        out = block if self._factor == 1.0 else block * self._factor
        for stage in self._stages:
            out = stage(out)
        dropped = min(self._to_drop, out.shape[1])
        self._to_drop -= dropped
        return out[:, dropped:]

    def finish(self) -> Block:
        """Give the samples still in the look-ahead."""
        return self.push(np.zeros((self._channels, self._latency), np.float32))

    def report(self) -> dict[str, Any]:
        """Largest reduction and share of time at work."""
        state = self._stages[0].state
        return {
            "max_reduction_db": round(-factor_to_db(float(state[_SMALLEST])), 2),
            "active_share": float(state[_TURNED_DOWN] / max(1.0, state[_SAMPLES])),
        }
