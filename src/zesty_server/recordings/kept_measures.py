"""Measures of recordings, kept in full beside them: nothing that begins with them measures again."""

from __future__ import annotations

import json
from typing import Any

from zesty_core import ENGINE_VERSION
from zesty_core.audio.edits import Edits
from zesty_core.measures.document import measures_document, measures_from
from zesty_core.measures.report import Measures
from zesty_server.recordings.edited_sound import sound_mark
from zesty_server.recordings.kept_answers import keep_json
from zesty_server.recordings.models import Recording
from zesty_server.recordings.room_tones import tone_mark


def keep_measures(recording: Recording, edits: Edits, measures: Measures) -> None:
    """Keep what was measured with these edits; what was kept before is gone."""
    kept = {"of": _mark(recording, edits), "measures": measures_document(measures)}
    keep_json(recording.kept_measures_path, kept)


def known_measures(recording: Recording, edits: Edits) -> Measures | None:
    """What is known of a recording with these edits; None where it has to be measured."""
    try:
        kept = json.loads(recording.kept_measures_path.read_bytes())
        return measures_from(kept["measures"]) if kept["of"] == _mark(recording, edits) else None
    except (OSError, ValueError, KeyError, TypeError):
        return None


def _mark(recording: Recording, edits: Edits) -> list[Any]:
    """What the measures depend on."""
    return [ENGINE_VERSION, *sound_mark(edits, tone_mark(recording))]
