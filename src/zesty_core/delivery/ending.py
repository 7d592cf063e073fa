"""The last steps of a chain, set so that a target is met: limiter and final level.

The level is exact because the limiter stands before it: its ceiling is lowered until the gain that is
then still missing fits under the target's own ceiling. Found by running limiter and level over the
finished rest of the chain a few times.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace

from zesty_core.chain.recipe import Chain, ChainStep
from zesty_core.foundation.errors import Cancelled
from zesty_core.foundation.signal import Block, Source
from zesty_core.measures.report import Measures
from zesty_core.measures.stream import measure
from zesty_core.steps.base import StepInput, process_blocks
from zesty_core.steps.gain import Gain
from zesty_core.steps.limiter import Limiter
from zesty_core.steps.loudness import Loudness
from zesty_core.steps.normalize import Normalize
from zesty_core.targets.document import Target

_ENDING = ("limiter", "loudness", "gain", "normalize")
_MEASURES = {"integrated_lufs": "lufs", "rms_dbfs": "rms"}
_PARTS = {"integrated_lufs": frozenset({"loudness"}), "rms_dbfs": frozenset[str]()}
#: More than this off the highest peak is heard as damage (common practice speaks of 3 to 4 dB of
#: drive; peaks of speech stand a few dB above what that takes).
MOST_LIMITED_DB = 9.0
#: Two channels alike carry twice the power of one. ITU-R BS.1770-5 adds the channels' powers.
DOUBLED_LU = 10.0 * math.log10(2.0)
_TRIES = 10
_NEAR_DB = 0.02
_LIMITER_GAIN_DB = 24.0


@dataclass(frozen=True)
class Ending:
    """The last steps, and what had to be said about them."""

    steps: Chain
    notes: tuple[str, ...] = ()


def body_of(chain: Chain) -> tuple[Chain, Limiter]:
    """The chain without the steps that set its final level, and its limiter's ways.

    These are all from the last limiter or loudness step back to the last step that is none of them.
    """
    at = len(chain)
    while at > 0 and (chain[at - 1].step.type in _ENDING or not chain[at - 1].is_active):
        at -= 1
    # A normalize step that stands first calibrates; it is no ending.
    while at < len(chain) and chain[at].step.type == "normalize":
        at += 1
    limiters = [c.step for c in chain[at:] if isinstance(c.step, Limiter)]
    return chain[:at], limiters[-1] if limiters else Limiter()


def fit_ending(
    body: Source,
    measures: Measures,
    target: Target,
    limiter: Limiter,
    *,
    doubled: bool = False,
    lowered_db: float = 0.0,
    cancelled: Callable[[], bool] = lambda: False,
) -> Ending:
    """Steps that bring ``body`` (what the rest of the chain has made, with its measures) to a target.

    ``doubled`` says that one channel will become two alike, which is 3 LU louder; ``lowered_db``
    keeps the peaks so much further down, for what an encoder adds to them.
    """
    ceiling = target.ceiling_dbtp
    lowered = None if ceiling is None else round(ceiling - lowered_db, 2)
    if target.level is None:
        return _peak_alone(measures, target, lowered)
    name, bound = target.level
    aim = round(bound.middle - (DOUBLED_LU if doubled and name == "integrated_lufs" else 0.0), 2)
    level, peak = getattr(measures, name), measures.true_peak_dbtp
    if level is None or peak is None:
        reason = measures.reasons.get(name, "silence")
        return Ending((), (f"no final level is set: {reason}",))
    top = 0.0 if lowered is None else lowered
    final = Loudness(measure=_MEASURES[name], target=aim, ceiling_dbtp=top)
    gain = aim - level
    excess = peak + gain - top
    if excess <= 0.0:
        return Ending((ChainStep(_past_the_gate(body, final, name, gain, cancelled)),))
    if excess > MOST_LIMITED_DB:
        note = (
            f"the level would need {excess:.1f} dB off the highest peak, more than is sound; "
            "compress more, or aim lower"
        )
        drive = gain - (excess - MOST_LIMITED_DB)
        return Ending((*_driven(limiter, drive, top), ChainStep(final)), (note,))
    ceiling_now = top
    for _ in range(_TRIES):
        reached = _level_behind(body, _driven(limiter, gain, ceiling_now), name, cancelled)
        # What is missing is added afterwards, and must find room under the ceiling.
        missing = aim - reached
        wanted = top - max(0.0, missing) - _NEAR_DB
        if ceiling_now <= wanted + _NEAR_DB and ceiling_now > wanted - 0.1:
            break
        ceiling_now = round(max(-30.0, wanted - _NEAR_DB), 2)
    return Ending((*_driven(limiter, gain, ceiling_now), ChainStep(final)))


def _past_the_gate(
    body: Source, final: Loudness, name: str, gain_db: float, cancelled: Callable[[], bool]
) -> Loudness:
    """``final``, aimed so that its own gain is counted.

    Loudness does not move one to one with a gain that takes quiet pauses past the absolute gate of -70
    LUFS (ITU-R BS.1770-5): after a deep noise reduction a tenth of a LU and more was missed.
    """
    if name != "integrated_lufs":
        return final
    aim = final.target
    for _ in range(_TRIES):
        plain: Chain = (ChainStep(Gain(gain_db=round(max(-60.0, min(60.0, gain_db)), 2))),)
        off = _level_behind(body, plain, name, cancelled) - aim
        if abs(off) <= _NEAR_DB:
            break
        gain_db -= off
        final = replace(final, target=round(final.target - off, 2))
    return final


def _level_behind(body: Source, steps: Chain, name: str, cancelled: Callable[[], bool]) -> float:
    """One measure of what limiter and gain make of ``body``; they need to know nothing of the whole."""

    def made() -> Iterator[Block]:
        blocks: Iterable[Block] = body.blocks()
        for entry in steps:
            facts = entry.step.facts(StepInput(body.info))
            blocks = process_blocks(entry.step.start(body.info, facts), blocks)
        for block in blocks:
            if cancelled():
                raise Cancelled
            yield block

    level: float = getattr(measure(made(), body.info, parts=_PARTS[name]), name)
    return level


def _peak_alone(measures: Measures, target: Target, top: float | None) -> Ending:
    """A target that says nothing of the level: peaks brought to their ceiling."""
    if top is None or measures.true_peak_dbtp is None:
        return Ending(())
    kind = "true" if "true_peak_dbtp" in target.bounds else "sample"
    return Ending((ChainStep(Normalize(target_db=top, peak=kind, remove_dc=False)),))


def _driven(limiter: Limiter, gain_db: float, ceiling_dbtp: float) -> Chain:
    """Limiter with so much gain before it; what it cannot add itself is added before."""
    own = max(-_LIMITER_GAIN_DB, min(_LIMITER_GAIN_DB, round(gain_db, 2)))
    rest = round(gain_db - own, 2)
    held = replace(limiter, input_gain_db=own, ceiling_dbtp=round(ceiling_dbtp, 2))
    steps = (ChainStep(held),)
    return (ChainStep(Gain(gain_db=rest)), *steps) if rest else steps
