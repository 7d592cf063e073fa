"""What is wrong with a chain, told from its order, its settings and what it did, in figures.

Limits are common practice, no published source.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from zesty_core.advice.finding import Act, Finding, with_minus
from zesty_core.advice.room import is_heard_there, louder_room_words
from zesty_core.measure.louder_room import LouderRoom
from zesty_core.measure.report import Levels
from zesty_core.recipe import Chain
from zesty_core.steps.base import Step
from zesty_core.steps.compressor import Compressor
from zesty_core.steps.de_esser import DeEsser
from zesty_core.steps.eq import Eq
from zesty_core.steps.gate import Gate
from zesty_core.steps.limiter import Limiter
from zesty_core.steps.loudness import Loudness
from zesty_core.steps.multiband import Multiband
from zesty_core.steps.noise_reduction import NoiseReduction
from zesty_core.steps.normalize import Normalize
from zesty_core.steps.saturation import Saturation

_SAFE_CEILING_DBTP = -1.0
_DEEP_DB, _WARBLES = 20.0, 1.5
_MUCH_REDUCTION_DB = 12.0
_MUCH_ROUNDING_DB = 6.0
_BOOST_DB = 3.0
_OPPOSED_DB, _SAME_PLACE_OCT = 2.0, 1.0 / 3.0
_IDLE_DB, _IDLE_SHARE = 0.3, 0.005
#: Steps after a limiter that can raise peaks again.
_AFTER_LIMITER = (Eq, Compressor, Multiband, Saturation)


@dataclass(frozen=True)
class StepResult:
    """What is known of a step: levels after it and its report, empty where it has not run."""

    levels: Levels
    report: Mapping[str, Any]


@dataclass(frozen=True)
class _Known:
    chain: Chain
    before: Levels
    results: Sequence[StepResult]
    ceiling_dbtp: float
    louder_room: LouderRoom | None

    def active(self) -> Iterator[tuple[int, Step]]:
        for index, entry in enumerate(self.chain):
            if entry.is_active:
                yield index, entry.step

    def levels_into(self, index: int) -> Levels:
        return self.results[index - 1].levels if index else self.before

    def report(self, index: int) -> Mapping[str, Any]:
        return self.results[index].report


def chain_advice(
    chain: Chain,
    before: Levels,
    results: Sequence[StepResult],
    ceiling_dbtp: float | None = None,
    louder_room: LouderRoom | None = None,
) -> list[Finding]:
    """Findings in the order of the chain; ``results`` has one entry for each step.

    ``ceiling_dbtp`` is the target's; without one, what lossy formats need is advised.
    ``louder_room`` is where the recording's room is louder than elsewhere.
    """
    ceiling_dbtp = _SAFE_CEILING_DBTP if ceiling_dbtp is None else ceiling_dbtp
    known = _Known(chain, before, results, ceiling_dbtp, louder_room)
    found = [finding for rule in _RULES for finding in rule(known)]
    found.sort(key=lambda finding: -1 if finding.at_step is None else finding.at_step)
    return [replace(finding, text=with_minus(finding.text)) for finding in found]


def _late_noise_reduction(known: _Known) -> Iterator[Finding]:
    uneven = [
        (i, step) for i, step in known.active() if isinstance(step, Compressor | Multiband | Gate)
    ]
    for index, step in known.active():
        if not isinstance(step, NoiseReduction):
            continue
        earlier = [(i, other) for i, other in uneven if i < index]
        if not earlier:
            continue
        first, other = earlier[0]
        raised = _difference(
            known.results[first].levels.noise_floor_dbfs, known.levels_into(first).noise_floor_dbfs
        )
        evidence = f", which raises it by {raised:.1f} dB" if raised and raised >= 1.0 else ""
        yield Finding(
            "late_noise_reduction",
            f"Noise reduction comes after {other.label}{evidence}: there the noise moves with the "
            "words and cannot be learned well.",
            Act("move_step", f"Move it before {other.label}", {"from": index, "to": first}),
            at_step=index,
        )


def _left_behind(known: _Known) -> Iterator[Finding]:
    louder = known.louder_room
    clearance_db = _difference(known.before.voice_level_dbfs, known.before.noise_floor_dbfs)
    if louder is None or clearance_db is None or not is_heard_there(louder, clearance_db):
        return
    for index, step in known.active():
        if isinstance(step, NoiseReduction) and not step.track_noise:
            yield Finding(
                "left_behind",
                f"{louder_room_words(louder)}. Noise reduction knows one of the two and "
                "takes little from the other.",
                Act("set_params", "Let it follow", {"at": index, "params": {"track_noise": True}}),
                at_s=(louder.span.start_s,),
                at_step=index,
            )


def _boost_into_compressor(known: _Known) -> Iterator[Finding]:
    steps = list(known.active())
    for (index, step), (after, following) in itertools.pairwise(steps):
        if not (isinstance(step, Eq) and isinstance(following, Compressor)):
            continue
        boost = max((b.gain_db for b in step.bands if b.enabled and not b.is_neutral), default=0.0)
        if boost >= _BOOST_DB:
            yield Finding(
                "boost_into_compressor",
                f"EQ boosts by {boost:.1f} dB into the compressor, which then works on what was "
                "boosted. Cut before, boost after.",
                Act("move_step", "Move EQ behind it", {"from": index, "to": after}),
                at_step=index,
            )


def _limiter_not_last(known: _Known) -> Iterator[Finding]:
    steps = list(known.active())
    for place, (index, step) in enumerate(steps):
        later = [s for _, s in steps[place + 1 :] if isinstance(s, _AFTER_LIMITER)]
        if not (isinstance(step, Limiter) and later):
            continue
        peak, last = known.results[-1].levels.true_peak_dbtp, len(known.chain) - 1
        told = f" The peak ends at {peak:.1f} dBTP." if peak is not None else ""
        behind = max(i for i, s in steps if isinstance(s, _AFTER_LIMITER))
        yield Finding(
            "limiter_not_last",
            f"{later[-1].label} comes after the limiter and can raise peaks over its ceiling of "
            f"{step.ceiling_dbtp:g} dBTP again.{told}",
            Act(
                "move_step",
                f"Move it behind {later[-1].label}",
                {"from": index, "to": min(behind, last)},
            ),
            at_step=index,
        )


def _no_calibration(known: _Known) -> Iterator[Finding]:
    for index, step in known.active():
        if isinstance(step, Normalize | Loudness):
            return
        if not isinstance(step, Compressor | Gate | DeEsser) or step.follow_voice:
            continue
        voice = known.levels_into(index).voice_level_dbfs
        act = None
        if voice is not None and not isinstance(step, DeEsser):
            params: dict[str, Any] = {
                "follow_voice": True,
                "threshold_db": round(step.threshold_db - voice, 1),
            }
            if isinstance(step, Compressor):
                params["quiet_guard_db"] = round(min(0.0, step.quiet_guard_db - voice), 1)
            act = Act("set_params", "Let it follow the voice", {"at": index, "params": params})
        yield Finding(
            "no_calibration",
            f"{step.label} counts from full scale ({step.threshold_db:g} dBFS), and nothing before "
            "it brings recordings to one level: the next take will be treated differently.",
            act,
            at_step=index,
        )


def _overdone(known: _Known) -> Iterator[Finding]:
    for index, step in known.active():
        report = known.report(index)
        if isinstance(step, NoiseReduction):
            yield from _too_deep(index, step, report)
        typical = report.get("typical_reduction_db")
        if isinstance(step, Compressor) and typical is not None and typical > _MUCH_REDUCTION_DB:
            yield Finding(
                "much_compression",
                f"The compressor takes {typical:.1f} dB from typical words; over "
                f"{_MUCH_REDUCTION_DB:g} dB speech sounds squeezed.",
                Act(
                    "set_params",
                    "Raise its threshold by 6 dB",
                    {"at": index, "params": {"threshold_db": min(30.0, step.threshold_db + 6.0)}},
                ),
                at_step=index,
            )
        rounded = report.get("max_reduction_db")
        if isinstance(step, Saturation) and rounded is not None and rounded > _MUCH_ROUNDING_DB:
            yield Finding(
                "much_saturation",
                f"Saturation rounds the highest peak by {rounded:.1f} dB; that is heard as dirt.",
                Act(
                    "set_params",
                    "Halve its drive",
                    {"at": index, "params": {"drive_db": round(step.drive_db / 2.0, 1)}},
                ),
                at_step=index,
            )


def _too_deep(index: int, step: NoiseReduction, report: Mapping[str, Any]) -> Iterator[Finding]:
    depth = max([p.depth_db for p in step.depth_curve] or [step.depth_db])
    warble = report.get("warble")
    warbles = warble is not None and warble > _WARBLES
    if depth <= _DEEP_DB and not warbles:
        return
    why = (
        f"what it leaves of the room warbles ({warble:.1f} times as uneven as the room itself)"
        if warbles
        else "beyond 20 dB it begins to be heard in the voice"
    )
    act = None
    if not step.depth_curve:
        less = min(_DEEP_DB, max(6.0, step.depth_db - 6.0))
        act = Act("set_params", f"Set {less:g} dB", {"at": index, "params": {"depth_db": less}})
    yield Finding(
        "deep_noise_reduction", f"Noise reduction is {depth:g} dB deep: {why}.", act, at_step=index
    )


def _opposed(known: _Known) -> Iterator[Finding]:
    bands = [
        (i, band)
        for i, step in known.active()
        if isinstance(step, Eq)
        for band in step.bands
        if band.enabled and abs(band.gain_db) >= _OPPOSED_DB and band.type in ("bell", "notch")
    ]
    for place, (i, one) in enumerate(bands):
        for j, other in bands[place + 1 :]:
            apart_oct = abs(math.log2(one.freq_hz / other.freq_hz))
            if one.gain_db * other.gain_db < 0 and apart_oct < _SAME_PLACE_OCT:
                yield Finding(
                    "opposed_bands",
                    f"One band gives {one.gain_db:+g} dB at {one.freq_hz:g} Hz and another "
                    f"{other.gain_db:+g} dB at {other.freq_hz:g} Hz: they undo each other.",
                    at_step=max(i, j),
                )
    de_essers = [(i, step) for i, step in known.active() if isinstance(step, DeEsser)]
    for i, de_esser in de_essers:
        for j, step in known.active():
            if not isinstance(step, Eq) or j < i:
                continue
            for band in step.bands:
                inside = de_esser.low_hz <= band.freq_hz <= de_esser.high_hz
                if band.enabled and inside and band.gain_db >= _BOOST_DB:
                    yield Finding(
                        "boosted_sibilance",
                        f"EQ boosts {band.gain_db:+g} dB at {band.freq_hz:g} Hz, where the de-esser "
                        "before it turns down: sharp sounds come back.",
                        Act("move_step", "Move the de-esser behind EQ", {"from": i, "to": j}),
                        at_step=i,
                    )


def _high_peak(known: _Known) -> Iterator[Finding]:
    peak = known.results[-1].levels.true_peak_dbtp if known.results else None
    ending = [(i, s) for i, s in known.active() if isinstance(s, Limiter | Loudness)]
    ceiling = known.ceiling_dbtp
    if peak is None or peak <= ceiling + 0.05 or not ending:
        return
    index, step = ending[-1]
    why = (
        f"MP3 and the like raise peaks; leave {-ceiling:g} dB."
        if ceiling == _SAFE_CEILING_DBTP
        else f"The target allows {ceiling:g} dBTP."
    )
    yield Finding(
        "high_peak",
        f"The true peak ends at {peak:.1f} dBTP. {why}",
        Act(
            "set_params",
            f"Set its ceiling to {ceiling:g} dBTP",
            {"at": index, "params": {"ceiling_dbtp": ceiling}},
        )
        if step.ceiling_dbtp > ceiling
        else None,
        at_step=index,
    )


def _nothing_happens(known: _Known) -> Iterator[Finding]:
    for index, step in known.active():
        if not isinstance(step, Compressor | Gate | DeEsser):
            continue
        report = known.report(index)
        if _over_full_scale_db(step):
            continue
        most, share = report.get("max_reduction_db"), report.get("active_share")
        if most is None or share is None or (most >= _IDLE_DB and share >= _IDLE_SHARE):
            continue
        act = None
        if isinstance(step, Compressor | DeEsser):
            act = Act(
                "set_params",
                "Lower its threshold by 6 dB",
                {"at": index, "params": {"threshold_db": step.threshold_db - 6.0}},
            )
        yield Finding(
            "nothing_happens",
            f"{step.label} does nothing here: its threshold of {report['threshold_dbfs']:.1f} dBFS "
            "is never reached."
            if isinstance(step, Compressor | DeEsser)
            else f"{step.label} does nothing here: it never shuts.",
            act,
            at_step=index,
        )


def _threshold_over_full_scale(known: _Known) -> Iterator[Finding]:
    """A threshold above full scale, usually left over from a step that followed the voice."""
    for index, step in known.active():
        over_db = _over_full_scale_db(step)
        if over_db is None:
            continue
        does = "shuts everything out" if isinstance(step, Gate) else "does nothing"
        usual_db = type(step)().threshold_db  # type: ignore[attr-defined]
        yield Finding(
            "threshold_over_full_scale",
            f"{step.label}'s threshold of +{over_db:.1f} dBFS is above full scale: it {does}. "
            "Switch on Follow the voice to set it relative to the voice level.",
            Act(
                "set_params",
                f"Set it to {usual_db:g} dBFS",
                {"at": index, "params": {"threshold_db": usual_db}},
            ),
            at_step=index,
        )


def _over_full_scale_db(step: Step) -> float | None:
    if not isinstance(step, Compressor | Gate | DeEsser) or step.follow_voice:
        return None
    return step.threshold_db if step.threshold_db > 0.0 else None


def _difference(now: float | None, before: float | None) -> float | None:
    return None if now is None or before is None else now - before


_RULES: tuple[Callable[[_Known], Iterator[Finding]], ...] = (
    _late_noise_reduction,
    _left_behind,
    _boost_into_compressor,
    _limiter_not_last,
    _no_calibration,
    _overdone,
    _opposed,
    _high_peak,
    _nothing_happens,
    _threshold_over_full_scale,
)
