"""The chain that is proposed for a recording."""

from __future__ import annotations

from zesty_core.advice.proposal import Proposal, propose_chain
from zesty_core.foundation.errors import BadInput
from zesty_core.measures.stream import measure
from zesty_server.recordings.edited_source import source_of
from zesty_server.recordings.kept_measures import keep_measures, known_measures
from zesty_server.recordings.models import Recording


def proposal_of(recording: Recording) -> Proposal:
    """A chain from the recording's measures and its target.

    Raises :class:`BadInput` for a recording that is not measured.
    """
    if recording.measures is None:
        raise BadInput(f"{recording.name}: is not measured yet; wait until its figures are there")
    measures = known_measures(recording, recording)
    if measures is None:
        # Kept by another version, or with other edits.
        source = source_of(recording)
        measures = measure(source.blocks(), source.info)
        keep_measures(recording, recording, measures)
    target = recording.target
    return propose_chain(measures, target.document if target else None)
