"""Runs."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.db import models

from zesty_core.audio.edits import samples_left
from zesty_server.accounts.owning import OwnedManager
from zesty_server.jobs.models import Job
from zesty_server.recordings.edited_sound import EditedSound

#: Folder beside the tries of a run, for the mixes made from it.
MIXES = "mixes"


class Run(EditedSound, Job):
    """A chain run over a recording: a copy of all that went in, and what came out."""

    owned_by = "recording__owner"

    recording = models.ForeignKey(
        "recordings.Recording", on_delete=models.CASCADE, related_name="runs"
    )
    batch = models.ForeignKey(
        "batches.Batch", null=True, blank=True, on_delete=models.CASCADE, related_name="runs"
    )
    chain = models.JSONField(help_text="Steps as they were, every setting written out.")
    label = models.CharField(max_length=120, blank=True, help_text="What a person calls it.")
    folds = models.BooleanField(
        default=False, help_text="Two channels are made one behind the chain, for the delivery."
    )
    target = models.JSONField(null=True, help_text="Target the last steps were fitted to.")
    recipe_name = models.CharField(max_length=200, blank=True)
    recipe_version = models.PositiveIntegerField(null=True)
    engine_version = models.CharField(max_length=20)
    before = models.JSONField(null=True)
    after = models.JSONField(null=True)
    voice_gain_db = models.FloatField(
        null=True,
        help_text="Gain of the voice from before to after; unknown where it is not found.",
    )
    points = models.JSONField(default=list, help_text="Levels and report after every step.")
    room_tone = models.JSONField(null=True, help_text="Span used, and where it came from.")
    notes = models.JSONField(default=list)
    mended = models.JSONField(default=dict, help_text="Events that each repair has mended.")
    clipped_samples = models.PositiveIntegerField(default=0)

    objects = OwnedManager()

    class Meta(Job.Meta):
        ordering = ("-created_at",)

    def __str__(self) -> str:
        return f"{self.recording.name}, {self.created_at:%Y-%m-%d %H:%M}"

    @property
    def home(self) -> Path:
        """Folder of all its tries, and of the mixes made from it."""
        return Path(settings.MEDIA_ROOT) / "runs" / str(self.pk)

    @property
    def folder(self) -> Path:
        """Where the files of the try lie that holds the row, or that finished it.

        Results from before there were tokens lie in the home itself.
        """
        return self.home / str(self.try_token) if self.try_token else self.home

    @property
    def length_samples(self) -> int:
        """Samples of the result."""
        recording = self.recording
        return samples_left(recording.length_samples, recording.sample_rate_hz, self)

    @property
    def duration_s(self) -> float:
        """Length of the result."""
        return self.length_samples / max(1, self.recording.sample_rate_hz)

    @property
    def channels(self) -> int:
        """Channels of the result."""
        return 1 if self.mono or self.folds else self.recording.channels

    @property
    def result_path(self) -> Path:
        """The finished file."""
        return self.folder / "result.wav"

    @property
    def pair_path(self) -> Path:
        """Before and after as channels of one file, for comparing at the same sample."""
        return self.folder / "pair.flac"

    @property
    def overview_path(self) -> Path:
        """Waveform overview of the result."""
        return self.folder / "overview.npy"

    @property
    def facts_path(self) -> Path:
        """What its steps knew of the whole recording, for passages of the same chain."""
        return self.folder / "facts.json"

    @property
    def result_name(self) -> str:
        """Name of the finished file for people."""
        stem = "".join(c for c in self.recording.name if c not in '/\\:*?"<>|').strip()
        return f"{stem or 'recording'}.wav"
