"""House voices over HTTP."""

from __future__ import annotations

from drf_spectacular.utils import extend_schema
from rest_framework import mixins, status, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.serializers import BaseSerializer

from zesty_server.house_voices.models import HouseVoice
from zesty_server.house_voices.serializers import (
    ComparedSerializer,
    ComparedWithSerializer,
    HouseVoiceSerializer,
    NewHouseVoiceSerializer,
)
from zesty_server.house_voices.services import compared, make_house_voice, rename_house_voice


class HouseVoiceViewSet(
    mixins.ListModelMixin,
    mixins.UpdateModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet[HouseVoice],
):
    """List, make of finished recordings, rename, delete, compare a recording with one."""

    queryset = HouseVoice.objects.none()
    serializer_class = HouseVoiceSerializer
    http_method_names = ("get", "post", "patch", "delete")

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """Every row that the person may see."""
        return HouseVoice.objects.all()

    @extend_schema(request=NewHouseVoiceSerializer, responses={201: HouseVoiceSerializer})
    def create(self, request: Request) -> Response:
        """Keep the voice of finished recordings under a name."""
        wanted = NewHouseVoiceSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        made = make_house_voice(**wanted.validated_data)
        return Response(HouseVoiceSerializer(made).data, status.HTTP_201_CREATED)

    @extend_schema(parameters=[ComparedWithSerializer], responses=ComparedSerializer)
    @action(detail=True, methods=["get"])
    def distance(self, request: Request, pk: str | None = None) -> Response:
        """How far a recording is from it."""
        house = self.get_object()
        asked = ComparedWithSerializer(data=request.query_params)
        asked.is_valid(raise_exception=True)
        found = compared(house, asked.validated_data["recording"])
        return Response(
            {
                "recorded": found.recorded and found.recorded.as_json(),
                "finished": found.finished and found.finished.as_json(),
                "step": found.step,
            }
        )

    def perform_update(self, serializer: BaseSerializer[HouseVoice]) -> None:
        """Only the name changes."""
        assert serializer.instance is not None
        if "name" in serializer.validated_data:
            rename_house_voice(serializer.instance, serializer.validated_data["name"])
