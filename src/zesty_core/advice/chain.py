"""Findings about a chain from its order, its settings and its results, with figures.

Rules ask what a step is like (its traits), never which one it is; what a step can judge by itself are
its own remarks. Limits are common practice, no published source.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from zesty_core.advice.finding import Act, Finding, with_minus
from zesty_core.chain.recipe import Chain
from zesty_core.measures.noise_floor_shift import NoiseFloorShift
from zesty_core.measures.report import Levels
from zesty_core.steps.base import Step
from zesty_core.steps.step_advice import StepContext, Trait

_SAFE_CEILING_DBTP = -1.0
_BOOST_DB = 3.0
_OPPOSED_DB, _SAME_PLACE_OCT = 2.0, 1.0 / 3.0
_IDLE_DB, _IDLE_SHARE = 0.3, 0.005


@dataclass(frozen=True)
class StepResult:
    """Levels after a step and its report, which is empty where it has not run."""

    levels: Levels
    report: Mapping[str, Any]


@dataclass(frozen=True)
class _ChainRun:
    chain: Chain
    before: Levels
    results: Sequence[StepResult]
    ceiling_dbtp: float
    noise_floor_shift: NoiseFloorShift | None

    def active(self) -> Iterator[tuple[int, Step]]:
        for index, entry in enumerate(self.chain):
            if entry.is_active:
                yield index, entry.step

    def with_trait(self, trait: Trait) -> list[tuple[int, Step]]:
        return [(index, step) for index, step in self.active() if trait in step.traits]

    def levels_into(self, index: int) -> Levels:
        return self.results[index - 1].levels if index else self.before

    def report(self, index: int) -> Mapping[str, Any]:
        return self.results[index].report


def chain_advice(
    chain: Chain,
    before: Levels,
    results: Sequence[StepResult],
    ceiling_dbtp: float | None = None,
    noise_floor_shift: NoiseFloorShift | None = None,
) -> list[Finding]:
    """Find what is wrong with a chain: order, overdoing, steps that fight or never act.

    Parameters
    ----------
    chain : steps in order.
    before : levels of the recording.
    results : levels and report of each step, one entry for each.
    ceiling_dbtp : the target's true peak; without one, what lossy formats need.
    noise_floor_shift : where the recording's room is louder than elsewhere.

    Returns
    -------
    Findings in the order of the chain, each with its figure and one thing to do.
    """
    ceiling_dbtp = _SAFE_CEILING_DBTP if ceiling_dbtp is None else ceiling_dbtp
    run = _ChainRun(chain, before, results, ceiling_dbtp, noise_floor_shift)
    found = [finding for rule in _RULES for finding in rule(run)]
    found.sort(key=lambda finding: -1 if finding.at_step is None else finding.at_step)
    return [replace(finding, text=with_minus(finding.text)) for finding in found]


def _late_noise_reduction(run: _ChainRun) -> Iterator[Finding]:
    uneven = run.with_trait(Trait.MOVES_NOISE)
    for index, step in run.with_trait(Trait.LEARNS_NOISE):
        earlier = [(i, other) for i, other in uneven if i < index]
        if not earlier:
            continue
        first, other = earlier[0]
        raised = _difference(
            run.results[first].levels.noise_floor_dbfs, run.levels_into(first).noise_floor_dbfs
        )
        evidence = f", which raises it by {raised:.1f} dB" if raised and raised >= 1.0 else ""
        yield Finding(
            "late_noise_reduction",
            f"{step.label} comes after {other.label}{evidence}: there the noise moves with the "
            "words and cannot be learned well.",
            Act("move_step", f"Move it before {other.label}", {"from": index, "to": first}),
            at_step=index,
        )


def _boost_into_compressor(run: _ChainRun) -> Iterator[Finding]:
    for (index, step), (after, following) in itertools.pairwise(run.active()):
        if Trait.COMPRESSES not in following.traits:
            continue
        boost = max((move.gain_db for move in step.tone_changes), default=0.0)
        if boost >= _BOOST_DB:
            yield Finding(
                "boost_into_compressor",
                f"{step.label} boosts by {boost:.1f} dB into the compressor, which then works on what "
                "was boosted. Cut before, boost after.",
                Act("move_step", f"Move {step.label} behind it", {"from": index, "to": after}),
                at_step=index,
            )


def _limiter_not_last(run: _ChainRun) -> Iterator[Finding]:
    raising = run.with_trait(Trait.RAISES_PEAKS)
    for index, step in run.with_trait(Trait.HOLDS_CEILING):
        later = [(i, other) for i, other in raising if i > index]
        if not later:
            continue
        peak, last = run.results[-1].levels.true_peak_dbtp, len(run.chain) - 1
        end = f" The peak ends at {peak:.1f} dBTP." if peak is not None else ""
        behind, other = later[-1]
        yield Finding(
            "limiter_not_last",
            f"{other.label} comes after the limiter and can raise peaks over its ceiling of "
            f"{step.peak_ceiling_dbtp:g} dBTP again.{end}",
            Act(
                "move_step",
                f"Move it behind {other.label}",
                {"from": index, "to": min(behind, last)},
            ),
            at_step=index,
        )


def _no_calibration(run: _ChainRun) -> Iterator[Finding]:
    for index, step in run.active():
        if Trait.CALIBRATES in step.traits:
            return
        threshold = step.absolute_threshold_dbfs
        if threshold is None:
            continue
        voice = run.levels_into(index).voice_level_dbfs
        params = {} if voice is None else step.following_params(voice)
        yield Finding(
            "no_calibration",
            f"{step.label} counts from full scale ({threshold:g} dBFS), and nothing before "
            "it brings recordings to one level: the next take will be treated differently.",
            _set_params(index, "Let it follow the voice", params),
            at_step=index,
        )


def _own_remarks(run: _ChainRun) -> Iterator[Finding]:
    for index, step in run.active():
        context = StepContext(run.report(index), run.before, run.noise_floor_shift)
        for remark in step.remarks(context):
            act = _set_params(index, remark.act_text, remark.params)
            yield Finding(remark.code, remark.text, act, remark.at_s, at_step=index)


def _set_params(index: int, text: str, params: Mapping[str, Any]) -> Act | None:
    return Act("set_params", text, {"at": index, "params": dict(params)}) if params else None


def _opposed(run: _ChainRun) -> Iterator[Finding]:
    moves = [
        (index, move)
        for index, step in run.active()
        for move in step.tone_changes
        if move.is_local and abs(move.gain_db) >= _OPPOSED_DB
    ]
    for place, (i, one) in enumerate(moves):
        for j, other in moves[place + 1 :]:
            apart_oct = abs(math.log2(one.freq_hz / other.freq_hz))
            if one.gain_db * other.gain_db < 0 and apart_oct < _SAME_PLACE_OCT:
                yield Finding(
                    "opposed_bands",
                    f"One band gives {one.gain_db:+g} dB at {one.freq_hz:g} Hz and another "
                    f"{other.gain_db:+g} dB at {other.freq_hz:g} Hz: they undo each other.",
                    at_step=max(i, j),
                )


def _boosted_sibilance(run: _ChainRun) -> Iterator[Finding]:
    steps = list(run.active())
    for place, (i, softening) in enumerate(steps):
        if softening.softened_band_hz is None:
            continue
        low_hz, high_hz = softening.softened_band_hz
        for j, step in steps[place + 1 :]:
            for move in step.tone_changes:
                if low_hz <= move.freq_hz <= high_hz and move.gain_db >= _BOOST_DB:
                    yield Finding(
                        "boosted_sibilance",
                        f"{step.label} boosts {move.gain_db:+g} dB at {move.freq_hz:g} Hz, where the "
                        "de-esser before it turns down: sharp sounds come back.",
                        Act(
                            "move_step",
                            f"Move the de-esser behind {step.label}",
                            {"from": i, "to": j},
                        ),
                        at_step=i,
                    )


def _high_peak(run: _ChainRun) -> Iterator[Finding]:
    peak = run.results[-1].levels.true_peak_dbtp if run.results else None
    ending = [(i, c) for i, s in run.active() if (c := s.peak_ceiling_dbtp) is not None]
    ceiling = run.ceiling_dbtp
    if peak is None or peak <= ceiling + 0.05 or not ending:
        return
    index, set_ceiling = ending[-1]
    why = (
        f"MP3 and the like raise peaks; leave {-ceiling:g} dB."
        if ceiling == _SAFE_CEILING_DBTP
        else f"The target allows {ceiling:g} dBTP."
    )
    lower = {"ceiling_dbtp": ceiling} if set_ceiling > ceiling else {}
    yield Finding(
        "high_peak",
        f"The true peak ends at {peak:.1f} dBTP. {why}",
        _set_params(index, f"Set its ceiling to {ceiling:g} dBTP", lower),
        at_step=index,
    )


def _nothing_happens(run: _ChainRun) -> Iterator[Finding]:
    for index, step in run.with_trait(Trait.HAS_THRESHOLD):
        report = run.report(index)
        if _over_full_scale_db(step):
            continue
        most, share = report.get("max_reduction_db"), report.get("active_share")
        if most is None or share is None or (most >= _IDLE_DB and share >= _IDLE_SHARE):
            continue
        shuts = Trait.SHUTS_GAPS in step.traits
        lower = {} if shuts else {"threshold_db": _threshold_db(step) - 6.0}
        yield Finding(
            "nothing_happens",
            f"{step.label} does nothing here: {step.idle_reason(report)}.",
            _set_params(index, "Lower its threshold by 6 dB", lower),
            at_step=index,
        )


def _threshold_over_full_scale(run: _ChainRun) -> Iterator[Finding]:
    """A threshold above full scale, usually left over from a step that followed the voice."""
    for index, step in run.with_trait(Trait.HAS_THRESHOLD):
        over_db = _over_full_scale_db(step)
        if over_db is None:
            continue
        does = "shuts everything out" if Trait.SHUTS_GAPS in step.traits else "does nothing"
        usual_db = _threshold_db(type(step)())
        yield Finding(
            "threshold_over_full_scale",
            f"{step.label}'s threshold of +{over_db:.1f} dBFS is above full scale: it {does}. "
            "Switch on Follow the voice to set it relative to the voice level.",
            _set_params(index, f"Set it to {usual_db:g} dBFS", {"threshold_db": usual_db}),
            at_step=index,
        )


def _threshold_db(step: Step) -> float:
    """The setting of that name, which every step with a threshold has."""
    return float(step.as_params()["threshold_db"])


def _over_full_scale_db(step: Step) -> float | None:
    threshold = step.absolute_threshold_dbfs
    return threshold if threshold is not None and threshold > 0.0 else None


def _difference(now: float | None, before: float | None) -> float | None:
    return None if now is None or before is None else now - before


_RULES: tuple[Callable[[_ChainRun], Iterator[Finding]], ...] = (
    _late_noise_reduction,
    _boost_into_compressor,
    _limiter_not_last,
    _no_calibration,
    _own_remarks,
    _opposed,
    _boosted_sibilance,
    _high_peak,
    _nothing_happens,
    _threshold_over_full_scale,
)
