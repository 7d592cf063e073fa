"""A proposal looks at what it has done, and corrects itself once.

Limits are common practice, no published source.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from zesty_core.advice.finding import with_minus
from zesty_core.advice.proposal import Proposal, ProposedStep
from zesty_core.chain.recipe import ChainStep
from zesty_core.targets.document import Target

_SQUEEZED_DB, _LIFT_DB = 8.0, 3.0
_LISPS_DB, _SHARP_DB, _SOFTER_DB = -16.0, 0.0, 3.0
_STILL_HEARD_DB, _MOST_DEPTH_DB, _MORE_DEPTH_DB = 40.0, 30.0, 5.0

Report = Mapping[str, Any]


@dataclasses.dataclass(frozen=True)
class Correction:
    """The proposal as it is now, and what was changed about it in words; empty where nothing was."""

    proposal: Proposal
    words: tuple[str, ...]


@dataclasses.dataclass(frozen=True)
class _Run:
    report: Report
    after: Report
    target: Target | None


def correct_once(
    proposal: Proposal, reports: Sequence[Report], after: Report, target: Target | None = None
) -> Correction:
    """Correct a proposal by what came of it.

    Parameters
    ----------
    proposal : Proposal
        What was run.
    reports : sequence of mappings
        What each of its steps reports, in order.
    after : mapping
        Measures of the result, as in JSON.
    target : Target, optional
        What the result has to meet.

    Returns
    -------
    correction : Correction
        To be run again where it has words.
    """
    steps, words = [], []
    for step, report in zip(proposal.steps, reports, strict=True):
        rule = _RULES.get(step.entry.step.type)
        changed = rule(step.entry.step.as_params(), _Run(report, after, target)) if rule else None
        if changed is None:
            steps.append(step)
            continue
        params, why = changed
        text = with_minus(f"{step.entry.step.label}: {why}")
        words.append(text)
        steps.append(_with(step, params, text))
    return Correction(dataclasses.replace(proposal, steps=tuple(steps)), tuple(words))


def _with(step: ProposedStep, params: dict[str, Any], reason: str) -> ProposedStep:
    entry = step.entry
    made = type(entry.step).from_params(entry.step.as_params() | params)
    return dataclasses.replace(
        step, entry=ChainStep(made, entry.enabled), reasons=(*step.reasons, reason)
    )


Change = tuple[dict[str, Any], str] | None


def _noise_reduction(params: Report, run: _Run) -> Change:
    depth_db = params["depth_db"]
    if depth_db >= _MOST_DEPTH_DB:
        return None
    more_db = min(_MOST_DEPTH_DB, depth_db + _MORE_DEPTH_DB)
    floor, bound = run.after.get("noise_floor_dbfs"), None
    if run.target is not None:
        bound = run.target.bounds.get("noise_floor_dbfs")
    if floor is not None and bound is not None and not bound.holds(floor):
        return {"depth_db": more_db}, (
            f"the room ended at {floor:.1f} dBFS, over what the target allows; {more_db:g} dB "
            f"instead of {depth_db:g}."
        )
    clearance = run.after.get("clearance_db")
    if clearance is not None and clearance < _STILL_HEARD_DB:
        return {"depth_db": more_db}, (
            f"the room still lay only {clearance:.0f} dB under the voice; {more_db:g} dB instead of "
            f"{depth_db:g}."
        )
    return None


def _de_esser(params: Report, run: _Run) -> Change:
    balance = run.after.get("balance")
    if balance is None:
        return None
    sibilance_db = balance["sibilance_db"]
    most_db = params["max_reduction_db"]
    if sibilance_db < _LISPS_DB:
        less_db = max(1.0, most_db - _SOFTER_DB)
        return {"max_reduction_db": less_db}, (
            f"s-sounds ended {sibilance_db:.0f} dB from the vowels and lisped; up to "
            f"{less_db:g} dB instead of {most_db:g}."
        )
    if sibilance_db > _SHARP_DB and most_db < 10.0:
        more_db, threshold_db = most_db + _SOFTER_DB, params["threshold_db"] - _SOFTER_DB
        return {"max_reduction_db": more_db, "threshold_db": threshold_db}, (
            f"s-sounds still peaked {sibilance_db:+.0f} dB relative to the vowels; up to "
            f"{more_db:g} dB instead of {most_db:g}, from {_SOFTER_DB:g} dB lower."
        )
    return None


def _compressor(params: Report, run: _Run) -> Change:
    typical = run.report.get("typical_reduction_db")
    if typical is None or typical <= _SQUEEZED_DB:
        return None
    return {"threshold_db": params["threshold_db"] + _LIFT_DB}, (
        f"it took {typical:.0f} dB from typical words, which sounds squeezed; threshold "
        f"{_LIFT_DB:g} dB higher."
    )


_RULES: dict[str, Callable[[Report, _Run], Change]] = {
    "noise_reduction": _noise_reduction,
    "de_esser": _de_esser,
    "compressor": _compressor,
}
