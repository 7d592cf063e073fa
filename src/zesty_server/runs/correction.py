"""A run of the chain that was proposed: what it overdid or left undone."""

from __future__ import annotations

from zesty_core.advice.proposal_check import Correction, correct_once
from zesty_server.recordings.kept_measures import known_measures
from zesty_server.recordings.proposing import proposal_of
from zesty_server.runs.models import Run


def correction_of(run: Run) -> Correction | None:
    """The proposal corrected by what came of it; None for a run of any other chain.

    Nothing is measured for it: None as well where the full measures are of another version.
    """
    if known_measures(run.recording, run.recording) is None:
        return None
    proposal = proposal_of(run.recording)
    if run.after is None or run.chain != [step.as_json() for step in proposal.chain]:
        return None
    target = run.recording.target
    reports = [point["report"] for point in run.points]
    return correct_once(proposal, reports, run.after, target.document if target else None)
