"""Room tones as JSON."""

from typing import Any

from rest_framework import serializers

from zesty_server.accounts.one_of import OneOf
from zesty_server.http.fields import NumberField, WholeField
from zesty_server.http.kept_json import KeptJsonSerializer
from zesty_server.rooms.models import RoomTone


class BandLevelSerializer(serializers.Serializer[dict[str, Any]]):
    """Level of a third-octave band."""

    freq_hz = NumberField()
    level_dbfs = NumberField(allow_null=True)


class RoomProfileSerializer(KeptJsonSerializer):
    """What a sample of room tone holds, and what speaks against it."""

    level_dbfs = NumberField(allow_null=True)
    bands = BandLevelSerializer(many=True)
    tones_hz = serializers.ListField(child=WholeField())
    warnings = serializers.ListField(child=serializers.CharField())


class MarkedRoomToneSerializer(serializers.ModelSerializer[RoomTone]):
    """A room tone and where it comes from."""

    recording_name = serializers.CharField(
        source="recording.name", read_only=True, allow_null=True, help_text="Null: gone for good."
    )
    recording_deleted_at = serializers.DateTimeField(
        source="recording.deleted_at", read_only=True, allow_null=True, help_text="Null: is there."
    )
    profile = RoomProfileSerializer(read_only=True, allow_null=True)

    class Meta:
        model = RoomTone
        fields: tuple[str, ...] = (
            "id",
            "name",
            "recording",
            "recording_name",
            "recording_deleted_at",
            "start_s",
            "end_s",
            "level_dbfs",
            "profile",
            "created_at",
        )
        read_only_fields = ("recording", "start_s", "end_s", "level_dbfs")


class RoomToneSerializer(MarkedRoomToneSerializer):
    """A room tone, where it comes from, and by how many it is used."""

    used_by = WholeField(read_only=True, help_text="Recordings that use it.")

    class Meta(MarkedRoomToneSerializer.Meta):
        fields: tuple[str, ...] = (*MarkedRoomToneSerializer.Meta.fields, "used_by")


class KeptRoomToneSerializer(RoomToneSerializer):
    """A room tone beside the sample of the same room before it."""

    changes = serializers.ListField(
        child=serializers.CharField(),
        read_only=True,
        help_text="What differs from the sample of the same room before this one.",
    )
    changed_since = serializers.DateTimeField(read_only=True, allow_null=True)

    class Meta(RoomToneSerializer.Meta):
        fields: tuple[str, ...] = (*RoomToneSerializer.Meta.fields, "changes", "changed_since")


class MarkRoomToneSerializer(serializers.Serializer[None]):
    """A span to keep as room tone."""

    start_s = NumberField(min_value=0)
    end_s = NumberField(min_value=0)
    name = serializers.CharField(required=False, allow_blank=True, max_length=200, default="")


class UseRoomToneSerializer(serializers.Serializer[None]):
    """Which room tone to use; null lets it be found."""

    room_tone = OneOf(RoomTone.objects.all, allow_null=True)
