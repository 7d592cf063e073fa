"""Room tones as JSON."""

from rest_framework import serializers

from zesty_server.rooms.models import RoomTone


class RoomToneSerializer(serializers.ModelSerializer[RoomTone]):
    """A room tone and where it comes from."""

    recording_name = serializers.CharField(source="recording.name", read_only=True)
    used_by = serializers.IntegerField(read_only=True, help_text="Recordings that use it.")

    class Meta:
        model = RoomTone
        fields = (
            "id",
            "name",
            "recording",
            "recording_name",
            "start_s",
            "end_s",
            "level_dbfs",
            "created_at",
            "used_by",
        )
        read_only_fields = ("recording", "start_s", "end_s", "level_dbfs")


class MarkRoomToneSerializer(serializers.Serializer[None]):
    """A span to keep as room tone."""

    start_s = serializers.FloatField(min_value=0)
    end_s = serializers.FloatField(min_value=0)
    name = serializers.CharField(required=False, allow_blank=True, max_length=200, default="")


class UseRoomToneSerializer(serializers.Serializer[None]):
    """Which room tone to use; null lets it be found."""

    room_tone = serializers.PrimaryKeyRelatedField(queryset=RoomTone.objects.all(), allow_null=True)
