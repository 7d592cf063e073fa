"""Room tones over HTTP."""

from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.serializers import BaseSerializer

from zesty_server.http.negotiation import AnyContent
from zesty_server.recordings.room_tones import remove_room_tone, rename_room_tone, tone_as_wav
from zesty_server.rooms.models import RoomTone
from zesty_server.rooms.selectors import room_tones, with_changes
from zesty_server.rooms.serializers import KeptRoomToneSerializer, RoomToneSerializer


class RoomToneViewSet(
    mixins.ListModelMixin,
    mixins.UpdateModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet[RoomTone],
):
    """List, rename, delete. They are made on a recording."""

    queryset = RoomTone.objects.none()
    serializer_class = RoomToneSerializer
    content_negotiation_class = AnyContent
    http_method_names = ("get", "patch", "delete")

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """Every row that the person may see."""
        return room_tones()

    @extend_schema(responses=KeptRoomToneSerializer(many=True))
    def list(self, request: Request) -> Response:
        """All, newest first, each beside the sample of the same room before it."""
        return Response(KeptRoomToneSerializer(with_changes(room_tones()), many=True).data)

    @extend_schema(responses={(200, "audio/wav"): OpenApiTypes.BINARY})
    @action(detail=True, methods=["get"])
    def audio(self, request: Request, pk: str | None = None) -> HttpResponse:
        """The sample, for listening."""
        return HttpResponse(tone_as_wav(self.get_object()), content_type="audio/wav")

    def perform_update(self, serializer: BaseSerializer[RoomTone]) -> None:
        """Only the name changes."""
        assert serializer.instance is not None
        if "name" in serializer.validated_data:
            rename_room_tone(serializer.instance, serializer.validated_data["name"])

    def perform_destroy(self, instance: RoomTone) -> None:
        """With its sound."""
        remove_room_tone(instance)
