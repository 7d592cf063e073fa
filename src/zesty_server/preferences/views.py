"""Preferences over HTTP."""

from __future__ import annotations

from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from zesty_server.preferences.selectors import preferences
from zesty_server.preferences.serializers import PreferencesSerializer
from zesty_server.preferences.services import change_preferences


class PreferencesView(APIView):
    """What new recordings begin with."""

    @extend_schema(responses=PreferencesSerializer)
    def get(self, request: Request) -> Response:
        """As they are."""
        return Response(PreferencesSerializer(preferences()).data)

    @extend_schema(request=PreferencesSerializer, responses=PreferencesSerializer)
    def patch(self, request: Request) -> Response:
        """Change some."""
        wanted = PreferencesSerializer(data=request.data, partial=True)
        wanted.is_valid(raise_exception=True)
        return Response(PreferencesSerializer(change_preferences(wanted.validated_data)).data)
