"""Make-up of a compressor, held back where the level lies under a quiet guard."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.compressor_state import (
    GUARD_POWER,
    HOP_SAMPLES,
    MAKEUP,
    MAKEUP_WANTED,
    Curve,
    Smoothing,
)
from zesty_core.dsp.control_rate import CONTROL_SAMPLES
from zesty_core.dsp.fast_powers import Row
from zesty_core.foundation.signal import Block
from zesty_core.runtime.kernel import kernel

_GUARD_FADE_DB = 6.0


@kernel
def _lifted(
    guard_power: float, makeup_db: float, guard_db: float, least: float, full: float
) -> float:
    """Make-up where the level stands over the quiet guard, fading in from one power to the other."""
    if guard_power >= full:
        return makeup_db
    if guard_power <= least:
        return 0.0
    return makeup_db * (10.0 * math.log10(guard_power) - guard_db) / _GUARD_FADE_DB


@kernel
def _glide_through(applied_db: Row, lift: float, wanted: float, left: Row, out_db: Row) -> None:
    """Part of a hop: from where the make-up stood at its start towards what is wanted."""
    distance = lift - wanted
    for n in range(applied_db.shape[0]):
        out_db[n] = wanted + distance * left[n] - applied_db[n]


@kernel
def _glide_through_hops(
    applied_db: Block, lift: Row, wanted: Row, left: Row, out_db: Block
) -> None:
    """Whole hops, one in each row; a slice for each would take longer than what is done in it."""
    for hop in range(applied_db.shape[0]):
        goal, distance = wanted[hop], lift[hop] - wanted[hop]
        for k in range(CONTROL_SAMPLES):
            out_db[hop, k] = goal + distance * left[k] - applied_db[hop, k]


@kernel
def _decide(
    energies: NDArray[np.float64],
    state: NDArray[np.float64],
    curve: Curve,
    smoothing: Smoothing,
    lift: Row,
    wanted: Row,
) -> None:
    """Make-up at the start of each hop and what is wanted from there on, of the open hop first."""
    makeup, guard = curve.makeup_db, curve.guard_dbfs
    least, full = 10.0 ** (guard / 10.0), 10.0 ** ((guard + _GUARD_FADE_DB) / 10.0)
    left = np.float32(smoothing.makeup_glide**CONTROL_SAMPLES)
    guard_power = state[GUARD_POWER]
    lift[0], wanted[0] = np.float32(state[MAKEUP]), np.float32(state[MAKEUP_WANTED])
    for hop in range(lift.shape[0] - 1):
        power = energies[hop] / CONTROL_SAMPLES
        coefficient = smoothing.guard_rise if power > guard_power else smoothing.guard_fall
        guard_power = coefficient * guard_power + (1.0 - coefficient) * power
        lift[hop + 1] = wanted[hop] + (lift[hop] - wanted[hop]) * left
        wanted[hop + 1] = np.float32(_lifted(guard_power, makeup, guard, least, full))
    state[GUARD_POWER], state[MAKEUP], state[MAKEUP_WANTED] = guard_power, lift[-1], wanted[-1]


@kernel
def guarded_gains_db(
    applied_db: Row,
    energies: NDArray[np.float64],
    out_db: Row,
    state: NDArray[np.float64],
    curve: Curve,
    smoothing: Smoothing,
    glides: Row,
) -> int:
    """Make-up above the quiet guard less the reduction, for each sample.

    The make-up is decided per hop of CONTROL_SAMPLES and glides towards it from where it stood at the
    hop's first sample. The answer is how many of ``energies`` were used up.
    """
    filled, size = int(state[HOP_SAMPLES]), applied_db.shape[0]
    hops = (filled + size) // CONTROL_SAMPLES
    lift, wanted = np.empty(hops + 1, np.float32), np.empty(hops + 1, np.float32)
    _decide(energies, state, curve, smoothing, lift, wanted)
    first = min((CONTROL_SAMPLES - filled) % CONTROL_SAMPLES, size)
    whole = (size - first) // CONTROL_SAMPLES
    rest, begun = first + whole * CONTROL_SAMPLES, 1 if filled > 0 else 0
    _glide_through(applied_db[:first], lift[0], wanted[0], glides[filled:], out_db[:first])
    _glide_through_hops(
        applied_db[first:rest].reshape(whole, CONTROL_SAMPLES),
        lift[begun:],
        wanted[begun:],
        glides,
        out_db[first:rest].reshape(whole, CONTROL_SAMPLES),
    )
    _glide_through(applied_db[rest:], lift[-1], wanted[-1], glides, out_db[rest:])
    return int(hops)


@kernel
def fixed_gains_db(applied_db: Row, makeup_db: float, out_db: Row) -> None:
    """The same where the make-up lifts nothing, so that the guard has nothing to do."""
    makeup = np.float32(makeup_db)
    for n in range(applied_db.shape[0]):
        out_db[n] = makeup - applied_db[n]
