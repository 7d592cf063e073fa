"""``zesty propose``: a chain made for one recording."""

from __future__ import annotations

import argparse
import json
from contextlib import ExitStack
from pathlib import Path

from zesty_cli.progress import ProgressLine
from zesty_cli.standard_streams import opened
from zesty_core.advice.proposal import Proposal, propose_chain
from zesty_core.advice.proposal_check import Correction, correct_once
from zesty_core.audio.reader import AudioFile
from zesty_core.chain.recipe import Recipe, write_recipe
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.errors import BadInput
from zesty_core.measures.stream import measure
from zesty_core.scripting import load_target
from zesty_core.targets.document import Target


def propose_command(options: argparse.Namespace) -> int:
    """Measure a file, propose a chain, and try it where that is asked for."""
    target = load_target(options.target) if options.target else None
    out = Path(options.recipe) if options.recipe else None
    if out is not None and out.exists() and not options.force:
        raise BadInput(f"{out}: exists already; --force replaces it")
    with ExitStack() as stack:
        file = opened(options.file, stack)
        before = measure(file.blocks(), file.info)
        proposal = propose_chain(before, target)
        corrections: tuple[str, ...] = ()
        if options.check and proposal.steps:
            tried = _tried(options, file, proposal, target)
            proposal, corrections = tried.proposal, tried.words
        name = f"{Path(file.name).stem}, proposed"
    if out is not None:
        out.write_text(write_recipe(Recipe(name, proposal.chain)), encoding="utf-8")
    if options.json:
        data = {"file": file.name, "target": target.name if target else None}
        print(json.dumps(data | proposal.as_json() | {"corrections": list(corrections)}, indent=2))
    elif not options.quiet:
        print("\n".join(_lines(file.name, proposal, corrections)))
    return 0


def _tried(
    options: argparse.Namespace, file: AudioFile, proposal: Proposal, target: Target | None
) -> Correction:
    with ProgressLine(file.info.duration_s, options.quiet, options.verbose) as line:
        result = run_chain(file, proposal.chain, lambda block: None, progress=line.show)
    reports = [point.report for point in result.points]
    return correct_once(proposal, reports, result.after.as_json(), target)


def _lines(name: str, proposal: Proposal, corrections: tuple[str, ...]) -> list[str]:
    count = len(proposal.steps)
    lines = [f"{name}: {count} {'step' if count == 1 else 'steps'} proposed"]
    for number, step in enumerate(proposal.steps, 1):
        first, *more = step.reasons
        lines.append(f"{number}. {step.entry.step.label}: {first}")
        lines += [f"   {reason}" for reason in more]
    lines += [f"corrected: {words}" for words in corrections]
    return lines + [f"note: {note}" for note in proposal.notes]
