"""Recordings over HTTP."""

from __future__ import annotations

import mimetypes
from pathlib import Path

from django.http import HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import mixins, status, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.serializers import BaseSerializer
from rest_framework.views import APIView

from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.signal import Source
from zesty_server.http.json_body import posted_object
from zesty_server.http.negotiation import AnyContent
from zesty_server.http.ranges import ranged_file
from zesty_server.http.raw_body import RawParser, content_length
from zesty_server.recordings.edits import open_audio
from zesty_server.recordings.looking_serializers import StretchQuerySerializer
from zesty_server.recordings.looking_views import LookingMixin
from zesty_server.recordings.models import Recording
from zesty_server.recordings.proposing import proposal_of
from zesty_server.recordings.room_tones import mark_room_tone, profile_of_span, use_room_tone
from zesty_server.recordings.selectors import put_away_recordings, recordings
from zesty_server.recordings.serializers import (
    ApplyRecipeSerializer,
    CameFromSerializer,
    ChainSerializer,
    EditsSerializer,
    EndsSerializer,
    PauseSerializer,
    PausesQuerySerializer,
    ProposalSerializer,
    RecordingSerializer,
    SetTargetSerializer,
)
from zesty_server.recordings.services import (
    describe_recording,
    put_away,
    receive_recording,
    retry_measuring,
    set_target,
    take_back,
)
from zesty_server.recordings.splitting import split_at_markers
from zesty_server.recordings.work import (
    apply_recipe,
    set_chain,
    set_edits,
    set_ends,
    tightened_pauses,
)
from zesty_server.rooms.serializers import (
    MarkRoomToneSerializer,
    RoomProfileSerializer,
    UseRoomToneSerializer,
)


class RecordingUploadView(APIView):
    """Takes a file in as the plain body of a POST."""

    parser_classes = (RawParser,)

    @extend_schema(
        request={"application/octet-stream": OpenApiTypes.BINARY},
        responses={201: RecordingSerializer},
        parameters=[OpenApiParameter("name", str, required=True, description="The file's name.")],
    )
    def post(self, request: Request) -> Response:
        """Store it and queue its measuring."""
        recording = receive_recording(
            request._request,  # type: ignore[arg-type]  # a request reads like a file
            request.query_params.get("name", ""),
            content_length(request),
        )
        fresh = recordings().get(pk=recording.pk)
        return Response(RecordingSerializer(fresh).data, status.HTTP_201_CREATED)


class RecordingViewSet(
    LookingMixin,
    mixins.ListModelMixin,
    mixins.RetrieveModelMixin,
    mixins.UpdateModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet[Recording],
):
    """List, look, rename, delete; set the chain, the recipe and the room tone."""

    queryset = Recording.objects.none()
    serializer_class = RecordingSerializer
    http_method_names = ("get", "head", "post", "put", "patch", "delete")
    content_negotiation_class = AnyContent

    def get_queryset(self):  # type: ignore[no-untyped-def]
        """All that are there; those put away only to be taken back."""
        return put_away_recordings() if self.action == "take_back" else recordings()

    def perform_update(self, serializer: BaseSerializer[Recording]) -> None:
        """Title, label, group, take, notes."""
        assert serializer.instance is not None
        describe_recording(serializer.instance, serializer.validated_data)

    def perform_destroy(self, instance: Recording) -> None:
        """Put away; it can be taken back."""
        put_away(instance)

    @extend_schema(request=None, responses=RecordingSerializer)
    @action(detail=True, methods=["post"], url_path="take-back")
    def take_back(self, request: Request, pk: str | None = None) -> Response:
        """Undo a deletion."""
        return self._answer(take_back(self.get_object()))

    def _answer(self, recording: Recording) -> Response:
        return Response(RecordingSerializer(recordings().get(pk=recording.pk)).data)

    @extend_schema(request=None, responses=RecordingSerializer)
    @action(detail=True, methods=["post"])
    def retry(self, request: Request, pk: str | None = None) -> Response:
        """Measure a recording again that could not be measured."""
        recording = self.get_object()
        if not retry_measuring(recording):
            raise BadInput(f"{recording.name}: was measured; only what failed is tried again")
        return self._answer(recording)

    @extend_schema(request=ChainSerializer, responses=RecordingSerializer)
    @action(detail=True, methods=["put"])
    def chain(self, request: Request, pk: str | None = None) -> Response:
        """Replace the chain."""
        wanted = CameFromSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        steps = posted_object(request).get("steps")
        return self._answer(set_chain(self.get_object(), steps, **wanted.validated_data))

    @extend_schema(request=EditsSerializer, responses=RecordingSerializer)
    @action(detail=True, methods=["put"])
    def edits(self, request: Request, pk: str | None = None) -> Response:
        """Replace the edits; what is heard is measured anew when it changes."""
        wanted = EditsSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        edits = dict(wanted.validated_data)
        seen = edits.pop("work_version")
        return self._answer(set_edits(self.get_object(), edits, seen))

    @extend_schema(
        parameters=[PausesQuerySerializer], responses=PauseSerializer(many=True), filters=False
    )
    @action(detail=True, methods=["get"], pagination_class=None)
    def pauses(self, request: Request, pk: str | None = None) -> Response:
        """Pauses that are too long, and the cuts that would tighten them; changes nothing."""
        query = PausesQuerySerializer(data=request.query_params)
        query.is_valid(raise_exception=True)
        found = tightened_pauses(self.get_object(), query.validated_data["longest_s"])
        return Response(found)

    @extend_schema(responses=ProposalSerializer)
    @action(detail=True, methods=["get"])
    def proposal(self, request: Request, pk: str | None = None) -> Response:
        """A chain made for this recording and its target, with reasons; changes nothing."""
        return Response(proposal_of(self.get_object()).as_json())

    @extend_schema(request=None, responses={201: RecordingSerializer(many=True)})
    @action(detail=True, methods=["post"])
    def split(self, request: Request, pk: str | None = None) -> Response:
        """Make a recording of each chapter that the markers make; this one stays."""
        made = [recording.pk for recording in split_at_markers(self.get_object())]
        found = {recording.pk: recording for recording in recordings().filter(pk__in=made)}
        fresh = [found[pk] for pk in made]
        return Response(RecordingSerializer(fresh, many=True).data, status.HTTP_201_CREATED)

    @extend_schema(request=EndsSerializer, responses=RecordingSerializer)
    @action(detail=True, methods=["put"])
    def ends(self, request: Request, pk: str | None = None) -> Response:
        """Set the silence at head and tail, cut or filled with the room's own tone."""
        wanted = EndsSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        return self._answer(set_ends(self.get_object(), **wanted.validated_data))

    @extend_schema(parameters=[StretchQuerySerializer], responses=RoomProfileSerializer)
    @action(detail=True, methods=["get"], url_path="room-profile")
    def room_profile(self, request: Request, pk: str | None = None) -> Response:
        """What a stretch would be like as room tone."""
        query = StretchQuerySerializer(data=request.query_params)
        query.is_valid(raise_exception=True)
        recording, span = self.get_object(), query.validated_data
        end_s = span.get("end_s", recording.duration_s or 0.0)
        return Response(profile_of_span(recording, span["start_s"], end_s).as_json())

    @extend_schema(request=ApplyRecipeSerializer, responses=RecordingSerializer)
    @action(detail=True, methods=["post"], url_path="apply-recipe")
    def apply_recipe(self, request: Request, pk: str | None = None) -> Response:
        """Make a recipe's steps the chain."""
        wanted = ApplyRecipeSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        return self._answer(apply_recipe(self.get_object(), **wanted.validated_data))

    @extend_schema(request=MarkRoomToneSerializer, responses=RecordingSerializer)
    @action(detail=True, methods=["post"], url_path="mark-room-tone")
    def mark_room_tone(self, request: Request, pk: str | None = None) -> Response:
        """Keep a span as room tone and use it."""
        span = MarkRoomToneSerializer(data=request.data)
        span.is_valid(raise_exception=True)
        recording = self.get_object()
        mark_room_tone(recording, **span.validated_data)
        return self._answer(recording)

    @extend_schema(request=UseRoomToneSerializer, responses=RecordingSerializer)
    @action(detail=True, methods=["put"], url_path="room-tone")
    def room_tone(self, request: Request, pk: str | None = None) -> Response:
        """Use a room tone kept before, or let it be found."""
        choice = UseRoomToneSerializer(data=request.data)
        choice.is_valid(raise_exception=True)
        recording = self.get_object()
        use_room_tone(recording, choice.validated_data["room_tone"])
        return self._answer(recording)

    @extend_schema(request=SetTargetSerializer, responses=RecordingSerializer)
    @action(detail=True, methods=["put"])
    def target(self, request: Request, pk: str | None = None) -> Response:
        """Choose what its delivery must meet."""
        choice = SetTargetSerializer(data=request.data)
        choice.is_valid(raise_exception=True)
        return self._answer(set_target(self.get_object(), choice.validated_data["target"]))

    def sound(self) -> tuple[Source, Path]:
        """The file as it came: cuts are shown in its own time."""
        recording = self.get_object()
        growing = recording.growing_overview_path
        path = growing if growing.exists() else recording.overview_path
        return open_audio(recording), path

    @extend_schema(responses={(200, "audio/*"): OpenApiTypes.BINARY})
    @action(detail=True, methods=["get", "head"])
    def audio(self, request: Request, pk: str | None = None) -> HttpResponseBase:
        """The recording as it came, for listening."""
        recording = self.get_object()
        kind, _ = mimetypes.guess_type(recording.original_name)
        kind = kind if kind and kind.startswith("audio/") else "application/octet-stream"
        return ranged_file(request._request, recording.path, kind)
