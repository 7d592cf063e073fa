"""What this installation is."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from zesty_core import ENGINE_VERSION, __version__
from zesty_core.runtime.cores import cores
from zesty_server.http.fields import WholeField


class AboutSerializer(serializers.Serializer[dict[str, Any]]):
    """Versions and limits."""

    version = serializers.CharField()
    engine_version = serializers.CharField(help_text="Changes when the sound does.")
    cores = WholeField(help_text="Processor cores that work may use.")
    largest_file_bytes = WholeField(help_text="More is not taken in.")


class AboutView(APIView):
    """Versions and limits."""

    @extend_schema(responses=AboutSerializer)
    def get(self, request: Request) -> Response:
        """Of the program that answers."""
        about = {
            "version": __version__,
            "engine_version": ENGINE_VERSION,
            "cores": cores(),
            "largest_file_bytes": settings.MAX_UPLOAD_BYTES,
        }
        return Response(AboutSerializer(about).data)
