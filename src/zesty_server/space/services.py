"""Making room."""

from __future__ import annotations

from zesty_server.jobs.models import JobState
from zesty_server.recordings.selectors import put_away_recordings, recordings_alone
from zesty_server.recordings.services import remove_for_good
from zesty_server.runs.services import remove_runs
from zesty_server.space.selectors import earlier_results


def remove_earlier_results() -> None:
    """Remove results that only serve looking back; the chains they came from can be run again."""
    remove_runs(list(earlier_results()))


def remove_put_away() -> None:
    """Remove every deleted recording now instead of after its days."""
    for recording in put_away_recordings():
        remove_for_good(recording)


def remove_decoded() -> None:
    """Remove what compressed files were decoded to; each is decoded again when it is needed."""
    for recording in recordings_alone().filter(state=JobState.DONE):
        recording.decoded_path.unlink(missing_ok=True)


#: What can be asked to go, by its address.
REMOVALS = {
    "decoded": remove_decoded,
    "earlier-results": remove_earlier_results,
    "put-away": remove_put_away,
}
