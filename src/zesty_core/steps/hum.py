"""Hum: mains hum is followed partial by partial and taken out; the voice between them stays."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.hum_tracking import (
    EVERY_S,
    REACH_S,
    HumPeriods,
    add_partials,
    tracked,
)
from zesty_core.foundation.settings import number, number_or_word
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.foundation.units import power_to_db
from zesty_core.steps.base import Facts, GainProcessor, Guide, Step, StepInput

_AUTO = "auto"


@dataclass(frozen=True, kw_only=True)
class Hum(Step):
    """Takes a hum's tones out."""

    type = "hum"
    label = "Hum"
    summary = "takes mains hum out"
    guide = Guide(
        "Follows each tone of a hum through its drift and takes it out by itself. A notch would take "
        "the voice's partials at its place with it, and ring.",
        ("Before noise reduction, as it is. Fundamental by hand where it is not 50 or 60 Hz.",),
        "It measures in the gaps between words and syllables: where somebody speaks for seconds "
        "without one, a part of the hum stays under the voice. One that jumps in level, as of a lamp "
        "that is dimmed, is caught half a second late. A buzz with hundreds of tones is work for noise "
        "reduction.",
    )
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "Lowest tones": {"highest_hz": 400.0},
    }
    work_ns = 60.0

    freq_hz: float | str = number_or_word(
        "Fundamental",
        word=_AUTO,
        unit="Hz",
        default=_AUTO,
        low=20,
        high=400,
        increment=0.5,
        help="Found at 50 or 60 Hz by itself; half a hertz beside is near enough.",
    )
    highest_hz: float = number(
        "Up to",
        unit="Hz",
        default=2500.0,
        low=50,
        high=8000,
        usual=(1000, 4000),
        increment=100,
        scale="log",
        help="Tones up to here are looked for.",
    )

    @property
    def state_decay_s(self) -> float:
        """It looks back and ahead alike."""
        return REACH_S + 2 * EVERY_S

    @property
    def look_ahead_s(self) -> float:
        """It looks back and ahead alike."""
        return REACH_S + 2 * EVERY_S

    @property
    def measures_wanted(self) -> frozenset[str]:
        """The hum, where its fundamental is not given."""
        return frozenset({"hum"}) if self.freq_hz == _AUTO else frozenset()

    def frame_samples(self, info: SignalInfo) -> int:
        """Tones are settled at these distances: whole periods of 50 and 60 Hz, or of what is given."""
        rate = info.sample_rate_hz
        if isinstance(self.freq_hz, str):
            return 2 * round(rate * EVERY_S / 2)
        return max(1, round(EVERY_S * self.freq_hz)) * round(rate / self.freq_hz)

    def facts(self, step_input: StepInput) -> Facts:
        """The fundamental."""
        if not isinstance(self.freq_hz, str):
            return {"freq_hz": self.freq_hz}
        hum = step_input.measures.hum if step_input.measures else None
        if hum is None:
            return {"note": "left as it is: no hum was found"}
        return {"freq_hz": float(hum.base_hz)}

    def start(self, info: SignalInfo, facts: Facts) -> HumProcessor | GainProcessor:
        """New running state."""
        if "note" in facts:
            return GainProcessor.idle(info, facts["note"])
        return HumProcessor(self, info, facts["freq_hz"])

    def _sentence(self) -> str:
        """In plain words."""
        where = "mains hum" if isinstance(self.freq_hz, str) else f"a hum at {self.freq_hz:g} Hz"
        return f"Takes {where} out, tone by tone, up to {self.highest_hz:g} Hz."


class _Side:
    """The hum of one channel."""

    def __init__(self, periods: HumPeriods) -> None:
        self._periods = periods
        self.sums = np.zeros((0, periods.partials), complex)
        self.powers = np.zeros(0)
        #: Number of the first period that is kept.
        self.first = 0

    def take(self, sound: NDArray[np.float64]) -> None:
        """The next whole periods."""
        at = self.first + len(self.sums)
        self.sums = np.concatenate([self.sums, self._periods.compare(sound, at)])
        rows = sound.reshape(-1, self._periods.samples)
        powers = np.asarray(rows.var(axis=1), np.float64)
        self.powers = np.concatenate([self.powers, powers])

    def settle(self, centre_s: float) -> tuple[float, NDArray[np.complex128]]:
        """Drift and partials at this time."""
        period_s = self._periods.samples / self._periods.rate
        gone = max(0, math.floor((centre_s - REACH_S) / period_s) - self.first)
        self.sums, self.powers = self.sums[gone:], self.powers[gone:]
        self.first += gone
        times_s = (self.first + np.arange(len(self.sums)) + 0.5) * period_s - centre_s
        near = int(np.count_nonzero(times_s < REACH_S))
        return tracked(self.sums[:near], self.powers[:near], np.asarray(times_s[:near], np.float64))


class HumProcessor:
    """The step on one signal, aligned with its input."""

    def __init__(self, step: Hum, info: SignalInfo, freq_hz: float) -> None:
        rate = info.sample_rate_hz
        highest_hz = min(step.highest_hz, 0.45 * rate)
        partials = max(1, min(60, int(highest_hz / freq_hz)))
        self._periods = HumPeriods(freq_hz, partials, rate)
        self._every = step.frame_samples(info)
        self._reach = round(REACH_S * rate) + self._periods.samples
        self._sides = [_Side(self._periods) for _ in range(info.channels)]
        self._settled: list[tuple[float, NDArray[np.complex128]]] | None = None
        self._held: Block = np.zeros((info.channels, 0), np.float32)
        self._unread: Block = np.zeros((info.channels, 0), np.float32)
        self._read, self._given = 0, 0  # periods, samples
        self._power, self._samples = 0.0, 0
        self._drifts: list[float] = []
        self._strength = np.zeros(partials)
        self._places = 0

    def push(self, block: Block) -> Block:
        """What is settled."""
        self._held = np.concatenate([self._held, block], axis=1)
        self._unread = np.concatenate([self._unread, block], axis=1)
        whole = self._unread.shape[1] // self._periods.samples * self._periods.samples
        for side, sound in zip(
            self._sides, self._unread[:, :whole].astype(np.float64), strict=True
        ):
            side.take(sound)
        self._unread = self._unread[:, whole:].copy()
        self._read += whole // self._periods.samples
        return self._give(self._read * self._periods.samples - self._reach)

    def finish(self) -> Block:
        """The rest, by what came until then."""
        left = self._held.shape[1]
        return self._give(self._given + left + 2 * self._every)[:, :left]

    def _give(self, settled_to: int) -> Block:
        """Sound up to the last place before the sample ``settled_to``."""
        rate, made = self._periods.rate, []
        while True:
            then_at = self._given + self._every
            if then_at > settled_to or not self._held.shape[1]:
                break
            if self._settled is None:
                self._settled = [side.settle(self._given / rate) for side in self._sides]
            following = [side.settle(then_at / rate) for side in self._sides]
            piece = self._held[:, : self._every].astype(np.float64)
            for channel, (now, then) in enumerate(zip(self._settled, following, strict=True)):
                hum = np.zeros(self._every)
                for (drift_hz, tones), begin, rises in ((now, 0, False), (then, 1, True)):
                    freq_hz = self._periods.freq_hz
                    at = self._given + begin * self._every
                    phase = (at * freq_hz / rate) % 1.0
                    offset_s = -begin * self._every / rate
                    add_partials(tones, freq_hz + drift_hz, phase, offset_s, rate, rises, hum)
                piece[channel] -= hum[: piece.shape[1]]
                self._power += float(np.square(hum[: piece.shape[1]]).sum())
                self._strength += np.square(np.abs(now[1]))
                self._drifts.append(now[0] if now[1].any() else 0.0)
            self._places += 1
            self._samples += piece.shape[1]
            made.append(piece.astype(np.float32))
            self._settled, self._given = following, self._given + self._every
            self._held = self._held[:, self._every :].copy()
        return np.concatenate(made, axis=1) if made else self._held[:, :0]

    def report(self) -> dict[str, Any]:
        """What was taken out."""
        mean_power = self._power / max(1, self._samples * len(self._sides))
        found = self._strength > 3e-4 * max(float(self._strength.max()), 1e-20)
        # What was not taken out anywhere is no tone.
        tones = int(np.count_nonzero(found & (self._strength > 0.0)))
        return {
            "freq_hz": self._periods.freq_hz
            + (float(np.median(self._drifts)) if self._drifts else 0.0),
            "drift_hz": float(np.ptp(self._drifts)) if self._drifts else 0.0,
            "tones": tones,
            "hum_dbfs": power_to_db(mean_power) if mean_power > 0 else None,
        }
