"""The same looks at a recording and at a result, over HTTP."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from zesty_core.foundation.signal import Source
from zesty_server.recordings.kept_answers import Answer, kept_answer
from zesty_server.recordings.looking import (
    figures_of,
    is_whole,
    overview_of,
    spectrogram_of,
    time_series_of_stretch,
)
from zesty_server.recordings.looking_serializers import (
    FiguresSerializer,
    OverviewQuerySerializer,
    OverviewSerializer,
    SpectrogramQuerySerializer,
    SpectrogramSerializer,
    StretchQuerySerializer,
    TimeSeriesQuerySerializer,
    TimeSeriesSerializer,
)

Query = TypeVar("Query", bound=serializers.Serializer)  # type: ignore[type-arg]


class LookingMixin:
    """Waveform, spectrogram, time series and figures of a stretch of what :meth:`sound` gives."""

    def sound(self) -> tuple[Source, Path]:
        """What is looked at, and where its overview is kept."""
        raise NotImplementedError

    @extend_schema(parameters=[OverviewQuerySerializer], responses=OverviewSerializer)
    @action(detail=True, methods=["get"])
    def overview(self, request: Request, pk: str | None = None) -> Response:
        """Waveform of a stretch."""
        wanted = _checked(OverviewQuerySerializer(data=request.query_params))
        source, path = self.sound()
        return Response(
            overview_of(source, path, wanted["start_s"], wanted.get("end_s"), wanted["bins"])
        )

    @extend_schema(parameters=[SpectrogramQuerySerializer], responses=SpectrogramSerializer)
    @action(detail=True, methods=["get"])
    def spectrogram(self, request: Request, pk: str | None = None) -> Response:
        """Levels over time and frequency of a stretch."""
        wanted = _checked(SpectrogramQuerySerializer(data=request.query_params))
        columns, rows = wanted["columns"], wanted["rows"]
        return self._of_stretch(
            wanted,
            f"spectrogram {columns} x {rows}",
            lambda source, start_s, end_s: spectrogram_of(source, start_s, end_s, columns, rows),
        )

    @extend_schema(parameters=[TimeSeriesQuerySerializer], responses=TimeSeriesSerializer)
    @action(detail=True, methods=["get"], url_path="time-series")
    def time_series(self, request: Request, pk: str | None = None) -> Response:
        """Loudness over time, levels and spectrum of a stretch."""
        wanted = _checked(TimeSeriesQuerySerializer(data=request.query_params))
        points = wanted["points"]
        return self._of_stretch(
            wanted,
            f"time series {points}",
            lambda source, start_s, end_s: time_series_of_stretch(source, start_s, end_s, points),
        )

    def _of_stretch(
        self,
        wanted: dict[str, Any],
        name: str,
        make: Callable[[Source, float, float | None], Answer],
    ) -> Response:
        """An answer about a stretch; about the whole it is worked out once."""
        source, path = self.sound()
        start_s, end_s = wanted["start_s"], wanted.get("end_s")
        if not is_whole(source.info, start_s, end_s):
            return Response(make(source, start_s, end_s))
        return Response(
            kept_answer(path.parent, f"{path.stem}, {name}", lambda: make(source, 0.0, None))
        )

    @extend_schema(parameters=[StretchQuerySerializer], responses=FiguresSerializer)
    @action(detail=True, methods=["get"])
    def figures(self, request: Request, pk: str | None = None) -> Response:
        """Peaks, RMS and loudness of a stretch."""
        wanted = _checked(StretchQuerySerializer(data=request.query_params))
        source, _ = self.sound()
        return Response(figures_of(source, wanted["start_s"], wanted.get("end_s")))


def _checked(query: Query) -> dict[str, Any]:
    query.is_valid(raise_exception=True)
    return dict(query.validated_data)
