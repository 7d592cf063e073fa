"""Watched folders as JSON."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from zesty_server.accounts.one_of import OneOf
from zesty_server.config.fields import WholeField
from zesty_server.recipes.models import Recipe
from zesty_server.targets.models import Target
from zesty_server.watched.models import FileState, WatchedFile, WatchedFolder

_MOST_TOLD = 20


class WatchedFileSerializer(serializers.ModelSerializer[WatchedFile]):
    """A file that came in, and what became of it."""

    recording = serializers.UUIDField(source="recording_id", read_only=True, allow_null=True)
    state = serializers.ChoiceField(FileState.choices, read_only=True)

    class Meta:
        model = WatchedFile
        fields = ("id", "name", "state", "recording", "delivered_as", "message", "came_at")
        read_only_fields = fields


class WatchedFolderSerializer(serializers.ModelSerializer[WatchedFolder]):
    """A watched folder with the newest of what came in."""

    recipe = serializers.UUIDField(source="recipe_id", read_only=True, allow_null=True)
    target = serializers.UUIDField(source="target_id", read_only=True, allow_null=True)
    batch = serializers.UUIDField(source="batch_id", read_only=True, allow_null=True)
    delivered = serializers.SerializerMethodField(help_text="How many files in all.")
    files = serializers.SerializerMethodField(help_text="The newest.")

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
            "trouble",
            "error",
            "delivered",
            "files",
        )
        read_only_fields = fields

    @extend_schema_field(WholeField())
    def get_delivered(self, watched: WatchedFolder) -> int:
        """Finished files that were put out."""
        return int(watched.files.filter(state=FileState.DELIVERED).count())

    @extend_schema_field(WatchedFileSerializer(many=True))
    def get_files(self, watched: WatchedFolder) -> Any:
        """The newest first."""
        return WatchedFileSerializer(watched.files.all()[:_MOST_TOLD], many=True).data


class WatchFolderSerializer(serializers.Serializer[None]):
    """A folder to watch. Without a folder for finished files, they go into *delivered* in it."""

    folder = serializers.CharField(max_length=1000)
    out_folder = serializers.CharField(max_length=1000, allow_blank=True, default="")
    recipe = OneOf(Recipe.objects.all)
    target = OneOf(Target.objects.all, required=False, allow_null=True, default=None)


class ChangeWatchedSerializer(serializers.Serializer[None]):
    """What of a watched folder can be changed."""

    paused = serializers.BooleanField(required=False)
    recipe = OneOf(Recipe.objects.all, required=False)
    target = OneOf(Target.objects.all, required=False, allow_null=True)


class FoldersQuerySerializer(serializers.Serializer[None]):
    """What of a path is typed so far."""

    under = serializers.CharField(required=False, allow_blank=True, default="", max_length=1000)


class FoldersSerializer(serializers.Serializer[None]):
    """Folders to choose from."""

    folders = serializers.ListField(child=serializers.CharField())
