"""Room tones over HTTP."""

from rest_framework import mixins, viewsets
from rest_framework.serializers import BaseSerializer

from zesty_server.rooms.models import RoomTone
from zesty_server.rooms.selectors import room_tones
from zesty_server.rooms.serializers import RoomToneSerializer
from zesty_server.rooms.services import rename_room_tone


class RoomToneViewSet(
    mixins.ListModelMixin,
    mixins.UpdateModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet[RoomTone],
):
    """List, rename, delete. They are made on a recording."""

    queryset = RoomTone.objects.none()
    serializer_class = RoomToneSerializer
    http_method_names = ("get", "patch", "delete")

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """All."""
        return room_tones()

    def perform_update(self, serializer: BaseSerializer[RoomTone]) -> None:
        """Only the name changes."""
        assert serializer.instance is not None
        rename_room_tone(serializer.instance, serializer.validated_data["name"])
