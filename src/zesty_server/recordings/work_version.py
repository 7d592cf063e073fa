"""Optimistic locking of a recording's chain and edits.

Two windows may show the same recording. Each change carries the version
it was made on; a change made on an older version is refused, and its window offers both versions.
"""

from __future__ import annotations

from typing import Any

from django.db.models import F

from zesty_core.foundation.errors import ZestyError
from zesty_server.recordings.models import Recording


class ChangedElsewhere(ZestyError):  # noqa: N818 - the family name says it is an error
    """The chain or the edits changed after the version a request was made on."""

    code = "changed_elsewhere"


def change_work(recording: Recording, seen: int | None, **changes: Any) -> None:
    """Store changes of chain or edits under a new version, if ``seen`` is the present one.

    ``seen`` of None changes whatever is there. Raises :class:`ChangedElsewhere`.
    """
    mine = Recording.objects.filter(pk=recording.pk)
    check_seen(recording, seen)
    if seen is not None:
        mine = mine.filter(work_version=seen)
    if not mine.update(**changes, work_version=F("work_version") + 1):
        raise _changed(recording)
    recording.refresh_from_db()


def check_seen(recording: Recording, seen: int | None) -> None:
    """Raises :class:`ChangedElsewhere` where ``seen`` is not the version that is stored."""
    if seen is None:
        return
    stored = (
        Recording.objects.filter(pk=recording.pk).values_list("work_version", flat=True).first()
    )
    if stored != seen:
        raise _changed(recording)


def _changed(recording: Recording) -> ChangedElsewhere:
    return ChangedElsewhere(
        f"{recording.name}: chain or edits were changed in another window; nothing was replaced",
        path="work_version",
    )
