"""Watched folders as JSON."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from zesty_server.accounts.one_of import OneOf
from zesty_server.http.fields import WholeField
from zesty_server.recipes.models import Recipe
from zesty_server.targets.models import Target
from zesty_server.watched.models import FileState, WatchedFile, WatchedFolder

_MOST_TOLD = 20


class WatchedFileSerializer(serializers.ModelSerializer[WatchedFile]):
    """An imported file and its state."""

    recording = serializers.UUIDField(source="recording_id", read_only=True, allow_null=True)
    state = serializers.ChoiceField(FileState.choices, read_only=True)

    class Meta:
        model = WatchedFile
        fields = ("id", "name", "state", "recording", "delivered_as", "message", "received_at")
        read_only_fields = fields


class WatchedFolderSerializer(serializers.ModelSerializer[WatchedFolder]):
    """A watched folder with its newest files."""

    recipe = serializers.UUIDField(source="recipe_id", read_only=True, allow_null=True)
    target = serializers.UUIDField(source="target_id", read_only=True, allow_null=True)
    batch = serializers.UUIDField(source="batch_id", read_only=True, allow_null=True)
    delivered = serializers.SerializerMethodField(help_text="Number of delivered files.")
    files = serializers.SerializerMethodField(help_text="The newest files.")

    class Meta:
        model = WatchedFolder
        fields = (
            "id",
            "folder",
            "out_folder",
            "recipe",
            "target",
            "batch",
            "paused",
            "problem",
            "error",
            "delivered",
            "files",
        )
        read_only_fields = fields

    @extend_schema_field(WholeField())
    def get_delivered(self, watched: WatchedFolder) -> int:
        """Number of files in the output folder."""
        return int(watched.files.filter(state=FileState.DELIVERED).count())

    @extend_schema_field(WatchedFileSerializer(many=True))
    def get_files(self, watched: WatchedFolder) -> Any:
        """The newest first."""
        return WatchedFileSerializer(watched.files.all()[:_MOST_TOLD], many=True).data


class WatchFolderSerializer(serializers.Serializer[None]):
    """A folder to watch; the output folder defaults to *delivered* inside it."""

    folder = serializers.CharField(max_length=1000)
    out_folder = serializers.CharField(max_length=1000, allow_blank=True, default="")
    recipe = OneOf(Recipe.objects.all)
    target = OneOf(Target.objects.all, required=False, allow_null=True, default=None)


class ChangeWatchedSerializer(serializers.Serializer[None]):
    """Changes to a watched folder."""

    paused = serializers.BooleanField(required=False)
    recipe = OneOf(Recipe.objects.all, required=False)
    target = OneOf(Target.objects.all, required=False, allow_null=True)


class FoldersQuerySerializer(serializers.Serializer[None]):
    """The beginning of a path."""

    under = serializers.CharField(required=False, allow_blank=True, default="", max_length=1000)


class FoldersSerializer(serializers.Serializer[None]):
    """Folders whose paths begin so."""

    folders = serializers.ListField(child=serializers.CharField())
