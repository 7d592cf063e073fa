"""Recordings."""

from __future__ import annotations

from pathlib import Path
from typing import ClassVar

from django.conf import settings
from django.db import models

from zesty_server.accounts.models import Owned
from zesty_server.jobs.models import Job
from zesty_server.recordings.edited_sound import EditedSound

_TAKEN_IN_ONCE = models.Q(deleted_at=None, is_doubled=False) & ~models.Q(sha256="")


class Recording(Owned, EditedSound, Job):
    """One imported file, kept as it came; the job fields are those of its intake.

    Files lie in a folder named by the id; names given by people are never paths.
    """

    #: Name of what a compressed file was decoded to.
    DECODED = "decoded.wav"

    name = models.CharField(max_length=200, help_text="Title shown; starts as the file's name.")
    label = models.CharField(max_length=200, blank=True, help_text="Role, room, show: free text.")
    group = models.CharField(max_length=200, blank=True, help_text="Show, client or project.")
    take = models.PositiveIntegerField(null=True, blank=True, help_text="Number of the take.")
    notes = models.TextField(blank=True)
    tags = models.JSONField(default=dict, help_text="Tags that the file came with.")
    work_version = models.PositiveIntegerField(
        default=1, help_text="Counts every change of chain and edits."
    )
    deleted_at = models.DateTimeField(null=True, blank=True, help_text="When it was put away.")
    original_name = models.CharField(max_length=255)
    size_bytes = models.BigIntegerField()
    sha256 = models.CharField(max_length=64, blank=True)
    container = models.CharField(max_length=20, blank=True)
    subtype = models.CharField(max_length=20, blank=True)
    sample_rate_hz = models.PositiveIntegerField(default=0)
    channels = models.PositiveSmallIntegerField(default=0)
    length_samples = models.BigIntegerField(default=0)
    measures = models.JSONField(null=True)
    advice = models.JSONField(default=list, help_text="Findings of the intake.")
    dismissed = models.JSONField(
        default=list, help_text="Codes of findings that the person does not want to see again."
    )
    chain = models.JSONField(default=list, help_text="Steps in order, as in a recipe.")
    recipe = models.ForeignKey(
        "recipes.Recipe",
        null=True,
        blank=True,
        on_delete=models.SET_NULL,
        related_name="recordings",
        help_text="Recipe the chain came from.",
    )
    recipe_version = models.PositiveIntegerField(null=True)
    run_when_measured = models.BooleanField(
        default=False, help_text="Its chain is to run once its figures are there, and has not yet."
    )
    is_doubled = models.BooleanField(
        default=False,
        editable=False,
        help_text="The same file as another; such could come in before the database forbade it.",
    )
    target = models.ForeignKey(
        "targets.Target",
        null=True,
        blank=True,
        on_delete=models.SET_NULL,
        related_name="recordings",
        help_text="What its delivery must meet.",
    )
    room_tone = models.ForeignKey(
        "rooms.RoomTone", null=True, blank=True, on_delete=models.SET_NULL, related_name="used_in"
    )

    class Meta(Job.Meta):
        ordering = ("-created_at",)
        indexes: ClassVar[tuple[models.Index, ...]] = (
            *Job.Meta.indexes,
            models.Index(
                fields=("state",),
                name="recording_runs_when_measured",
                condition=models.Q(run_when_measured=True),
            ),
        )
        constraints = (
            models.UniqueConstraint(
                fields=("owner", "sha256"),
                condition=_TAKEN_IN_ONCE & ~models.Q(owner=None),
                name="one_recording_of_a_file_for_each_owner",
            ),
            models.UniqueConstraint(
                fields=("sha256",),
                condition=_TAKEN_IN_ONCE & models.Q(owner=None),
                name="one_recording_of_a_file_of_nobody",
            ),
        )

    def __str__(self) -> str:
        return self.name

    @property
    def folder(self) -> Path:
        """Where its files lie."""
        return Path(settings.MEDIA_ROOT) / "recordings" / str(self.pk)

    @property
    def path(self) -> Path:
        """The file as it came."""
        return self.folder / "original"

    @property
    def cover_path(self) -> Path:
        """The picture that the file came with; there is none for most."""
        return self.folder / "cover"

    @property
    def decoded_path(self) -> Path:
        """What a compressed file was decoded to."""
        return self.folder / self.DECODED

    @property
    def overview_path(self) -> Path:
        """Waveform overview."""
        return self.folder / "overview.npy"

    @property
    def growing_overview_path(self) -> Path:
        """Waveform overview while the file is still read for the first time."""
        return self.folder / "growing.npy"

    @property
    def kept_measures_path(self) -> Path:
        """All that was measured, as exactly as it was."""
        return self.folder / "measures.json"

    @property
    def duration_s(self) -> float | None:
        """Length in seconds, once known."""
        return self.length_samples / self.sample_rate_hz if self.sample_rate_hz else None
