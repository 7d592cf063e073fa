"""Uploads as JSON."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from zesty_server.http.fields import WholeField
from zesty_server.recordings.serializers import RecordingSerializer
from zesty_server.uploads.models import Upload


class UploadSerializer(serializers.ModelSerializer[Upload]):
    """A file on its way in. The same name, size and date of change find it again."""

    received_bytes = WholeField(read_only=True, help_text="Go on from here.")

    class Meta:
        model = Upload
        fields = ("id", "name", "size_bytes", "modified_ms", "touched_at", "received_bytes")
        # Beginning again with the same file is how an upload is found, not a fault.
        validators: tuple[Any, ...] = ()


class PieceSerializer(serializers.Serializer[dict[str, Any]]):
    """What a piece led to: the recording once the file is whole."""

    received_bytes = WholeField()
    recording = RecordingSerializer(allow_null=True)
